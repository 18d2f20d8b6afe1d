// What every run of steps has to be told, checked.
#pragma once

#include "elbowroom/follow/tracked_tool.hpp"

namespace er {

/// Throws InputError for a rate that is not 10 to 100000 steps a second, a gain that is not above
/// zero and at most the rate, a clearance below zero; and for `plain` where the joints and what is
/// held of the tool's pose are not equal in number.
void check_step_options(const TrackedTool& tool, FollowMode mode, double rate, double gain,
                        double clearance);

/// The posture that redundant joints are drawn to: the one given, or, where that is empty, mid
/// range. Throws InputError for one that does not fit the arm.
Posture drawn_towards(const Arm& arm, const Posture& given);

}  // namespace er
