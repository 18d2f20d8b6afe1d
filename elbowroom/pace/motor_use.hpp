// What a motion asks of the motors, beside what they can give.
#pragma once

#include <string>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/dynamics/inverse_dynamics.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er {

/// True when the arm states a torque limit, and the masses that torques need.
bool states_torques(const Arm& arm);

/// The largest share of a torque (or force) limit, the most at a few samples in each piece of
/// the motion, and where friction changes its way; no joint (-1) where no limit is stated, or
/// masses are not.
PeakUse torque_use(const Motion& motion, const Arm& arm, const DynamicsOptions& options = {});

/// Where in each piece of a motion torques are looked at: at its ends, too, or only between, where
/// they are known to be kept at the ends.
enum class TorqueMoments { all, between_ends };

/// How many times as long a motion must take to keep torque limits (`most`, above zero), and would
/// keep them in any longer time, too; at a few samples in each piece and where friction changes its
/// way. 1 when it keeps them. A no where holding still takes all of one.
Verdict<double> stretch_for_torque(const Motion& motion, const Arm& arm, const Posture& most,
                                   const ArmDynamics& dynamics,
                                   TorqueMoments moments = TorqueMoments::all);

/// "torque at most 63.1 % of the limit of shoulder, at 0.310 s" or, where no limit is stated, "";
/// where it is too much, or limits are stated and masses are not, it says so.
std::string torque_text(const PeakUse& use, const Arm& arm);

}  // namespace er
