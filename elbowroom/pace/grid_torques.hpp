// Torques between the points of a grid, at which they are kept.
#pragma once

#include "elbowroom/pace/grid_pieces.hpp"
#include "elbowroom/pace/path_efforts.hpp"

namespace er {

/// How many times as long the motion over a grid must take to keep torque limits inside of its
/// intervals, too: `stretch`, if that is enough. `efforts` are those at the grid's points, with
/// growth. A no where holding still takes all of a motor. Most intervals are passed over: how
/// torques bend from point to point says that they have less to exceed than others.
Verdict<double> stretch_for_torque(const PacedGrid& paced, const PathEfforts& efforts,
                                   const Arm& arm, const ArmDynamics& dynamics, const Posture& most,
                                   double stretch);

}  // namespace er
