#include "elbowroom/pace/path_tool.hpp"

#include <Eigen/Geometry>

#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

// Each entry of the posture moves one joint of the way, in their order.
bool is_plain_chain(const ChainWalk& walk) {
  for (std::size_t i = 0; i + 1 < walk.steps.size(); ++i)
    if (walk.steps[i].entry >= walk.steps[i + 1].entry) return false;
  return true;
}

// A joint turns the columns of all that come after it: the derivative of column k by joint j is the
// turn of the one of both that comes first across the column of the other.
PathTool of_chain(const Jacobian& jacobian, const PostureRef& slope, const PostureRef& curvature) {
  PathTool out;
  Vector3 turning = Vector3::Zero();  // by the joints before
  for (Eigen::Index k = 0; k < slope.size(); ++k) {
    const Vector3 column = jacobian.col(k).head<3>();
    const Vector3 turn = slope[k] * jacobian.col(k).tail<3>();
    out.slope += slope[k] * column;
    out.curvature += curvature[k] * column + slope[k] * (2.0 * turning + turn).cross(column);
    turning += turn;
  }
  return out;
}

// By central differences along the path's own parabola.
Vector3 bent(const Arm& arm, int link, const Vector3& tip, const PostureRef& position,
             const PostureRef& slope, const PostureRef& curvature) {
  constexpr double kStep = 1e-5;
  const auto velocity = [&](double by) {
    const Posture q = position + by * slope + 0.5 * by * by * curvature;
    const Posture v = slope + by * curvature;
    return point_velocity(arm, link, tip, q, v);
  };
  return (velocity(kStep) - velocity(-kStep)) / (2.0 * kStep);
}

}  // namespace

PathTool path_tool(const Arm& arm, int link, const Vector3& tip, const PostureRef& position,
                   const PostureRef& slope, const PostureRef& curvature) {
  Jacobian jacobian;
  frame_jacobian(arm, link, Pose::at(tip), position, jacobian);
  PathTool out = of_chain(jacobian, slope, curvature);
  // One that follows another comes later on the way than its column says.
  if (!is_plain_chain(arm.walk_to(link)))
    out.curvature = bent(arm, link, tip, position, slope, curvature);
  return out;
}

}  // namespace er
