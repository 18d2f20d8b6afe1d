// Whether anything stands between a camera and what it is to see.
#pragma once

#include <string>

#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/kinematics/target_on_arm.hpp"

namespace er {

/// The name of what stands in the line from a camera to a point that the target wants to be seen
/// unblocked, or "" when all lines are clear. The camera's own link does not count; the last
/// millimetre before the point does not, either, so that a point on a surface can be seen. `parts`
/// stand at the posture afterwards.
std::string view_blocked_by(const CellQuery& query, const TargetOnArm& target,
                            const Posture& posture, PartPoses& parts);

}  // namespace er
