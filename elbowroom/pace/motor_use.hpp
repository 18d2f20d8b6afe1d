// What a motion asks of the motors, beside what they can give.
#pragma once

#include <string>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/dynamics/inverse_dynamics.hpp"
#include "elbowroom/pace/effort_looks.hpp"

namespace er {

/// What a limit may be passed by, relative: between the points of a grid torques are kept to that.
inline constexpr double kTorqueSlack = 1e-3;

/// True when the arm states a torque limit, and the masses that torques need.
bool states_torques(const Arm& arm);

/// The largest share of a torque (or force) limit, to a millionth (see look_at_efforts()). No
/// joint (-1) where no limit is stated, or masses are not.
PeakUse torque_use(const Motion& motion, const Arm& arm, const DynamicsOptions& options = {});

/// How many times as long a motion must take to keep torque limits (`most`, above zero), and would
/// keep them in any longer time, too; looked for like torque_use(). 1 when it keeps them. A no
/// where holding still takes all of one.
Verdict<double> stretch_for_torque(const Motion& motion, const Arm& arm, const Posture& most,
                                   const ArmDynamics& dynamics,
                                   TorqueMoments moments = TorqueMoments::all);

/// "torque at most 63.1 % of the limit of shoulder, at 0.310 s" or, where no limit is stated, "";
/// where it is too much, or limits are stated and masses are not, it says so.
std::string torque_text(const PeakUse& use, const Arm& arm);

}  // namespace er
