#include "elbowroom/pace/path_tool.hpp"

#include "elbowroom/kinematics/forward.hpp"

namespace er {

PathTool path_tool(const Arm& arm, int link, const Vector3& tip, const PostureRef& position,
                   const PostureRef& slope, const PostureRef& curvature) {
  const auto velocity = [&](double by) {
    const Posture q = position + by * slope + 0.5 * by * by * curvature;
    const Posture v = slope + by * curvature;
    return point_velocity(arm, link, tip, q, v);
  };
  constexpr double kStep = 1e-5;
  return {velocity(0.0), (velocity(kStep) - velocity(-kStep)) / (2.0 * kStep)};
}

}  // namespace er
