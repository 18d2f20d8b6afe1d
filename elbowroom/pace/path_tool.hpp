// How a point of the arm moves along a path.
#pragma once

#include "elbowroom/model/arm.hpp"

namespace er {

/// The point's velocity and acceleration per unit of the path's parameter, world axes.
struct PathTool {
  Vector3 slope = Vector3::Zero();
  Vector3 curvature = Vector3::Zero();
};

/// From a posture on the path and its first two derivatives. The curvature from one Jacobian; where
/// joints follow others, by central differences, good to 1e-9 of it.
PathTool path_tool(const Arm& arm, int link, const Vector3& tip, const PostureRef& position,
                   const PostureRef& slope, const PostureRef& curvature);

}  // namespace er
