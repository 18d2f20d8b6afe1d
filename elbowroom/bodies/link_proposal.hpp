// Which link of an arm each body of a mesh belongs to.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/bodies/split.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

/// How one body was given to a link, and how sure that is.
struct BodyOnLink {
  int body = 0;         ///< its number
  int link = 0;         ///< of the arm
  int second = -1;      ///< the next best link with all else as it is; -1: none
  double margin = 0.0;  ///< m that this is worse
  bool spans = false;   ///< it goes through a joint and on along the next link
};

/// The arm is mounted as it is in the frame of the mesh, all joints at zero; metres. Each body
/// hangs on one that it is nearest to, from the body at the mount outward; of all ways to give them
/// to links in that order the one is taken for which bodies are nearest to the middle lines of
/// their links, and go over from one link to the next near the joint between them. What is inside
/// of another body belongs to its link. A proposal: look at it.
std::vector<BodyOnLink> propose_links(const Bodies& bodies, const Arm& arm);

/// m, for each of several arms on one mount; what that makes as small as it can be: how far bodies
/// are from the middle lines of their links, and the places where they go over from the joints
/// between. The less, the better an arm fits the bodies.
std::vector<double> link_costs(const Bodies& bodies, const std::vector<Arm>& arms);

}  // namespace er
