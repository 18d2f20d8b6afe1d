// Joints moved so that links are where they are wanted.
#pragma once

#include <vector>

#include "elbowroom/model/arm.hpp"

namespace er {

/// The links of an arm with the origins of their joints moved, and turned, so that at a posture
/// each link is at its pose (in the world, as link_poses has them). The base stays on its mount.
std::vector<Link> links_placed(const Arm& arm, const PostureRef& posture,
                               const std::vector<Pose>& poses);

/// The same arm, whose zero is how it stands at a posture: what is done with all joints at zero is
/// done there. Without stances, which would be others.
Arm standing_at(const Arm& arm, const PostureRef& posture);

}  // namespace er
