#include "elbowroom/kinematics/forward.hpp"

#include <Eigen/Geometry>

#include "elbowroom/kinematics/frame_walk.hpp"

namespace er {
namespace {

JacobianColumns columns_of(Jacobian& out, Eigen::Index columns) {
  out.resize(6, columns);
  return {out.data(), static_cast<int>(columns)};
}

// With the arm's mount at `base`.
Pose jacobian_from(const Pose& base, const ChainWalk& chain, const Pose& frame_in_link,
                   const PostureRef& posture, Jacobian& out) {
  return walk_to_frame(base, chain, frame_in_link, posture, columns_of(out, posture.size()));
}

}  // namespace

void link_poses(const Arm& arm, const PostureRef& posture, std::span<Pose> out) {
  place_links(arm.mount(), arm.link_motions(), posture, out);
}

std::vector<Pose> link_poses(const Arm& arm, const PostureRef& posture) {
  std::vector<Pose> poses(arm.links().size());
  link_poses(arm, posture, poses);
  return poses;
}

Pose tool_pose(const Arm& arm, const Tool& tool, const PostureRef& posture) {
  return frame_pose(arm, tool.link_index, tool.tip, posture);
}

Pose frame_pose(const Arm& arm, int link, const Pose& frame_in_link, const PostureRef& posture) {
  return walk_to_frame(arm.mount(), arm.walk_to(link), frame_in_link, posture);
}

Pose tool_jacobian(const Arm& arm, const Tool& tool, const PostureRef& posture, Jacobian& out) {
  return frame_jacobian(arm, tool.link_index, tool.tip, posture, out);
}

Pose frame_jacobian(const Arm& arm, int link, const Pose& frame_in_link, const PostureRef& posture,
                    Jacobian& out) {
  return jacobian_from(arm.mount(), arm.walk_to(link), frame_in_link, posture, out);
}

Pose frame_jacobian(const Arm& arm, std::span<const Pose> links, int link,
                    const Pose& frame_in_link, Jacobian& out) {
  const Pose frame = links[static_cast<std::size_t>(link)] * frame_in_link;
  placed_jacobian(arm.link_motions(), arm.links_to(link), links, frame.position,
                  columns_of(out, arm.dof()));
  return frame;
}

Pose tool_jacobian_along(const Matrix3& axes, const Arm& arm, const Tool& tool,
                         const PostureRef& posture, Jacobian& out) {
  const Pose base = Pose{axes.transpose(), Vector3::Zero()} * arm.mount();
  return jacobian_from(base, arm.walk_to(tool.link_index), tool.tip, posture, out);
}

Vector3 point_velocity(const Arm& arm, int link, const Vector3& point_in_link,
                       const PostureRef& posture, const PostureRef& velocity) {
  Jacobian jacobian;
  frame_jacobian(arm, link, Pose::at(point_in_link), posture, jacobian);
  return jacobian.topRows<3>() * velocity;
}

}  // namespace er
