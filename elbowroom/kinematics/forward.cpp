#include "elbowroom/kinematics/forward.hpp"

#include <Eigen/Geometry>
#include <array>

namespace er {
void link_poses(const Arm& arm, const PostureRef& posture, std::span<Pose> out) {
  const std::vector<Link>& links = arm.links();
  for (std::size_t i = 0; i < links.size(); ++i) {
    const Pose& parent =
        i == 0 ? arm.mount() : out[static_cast<std::size_t>(links[i].parent_index)];
    out[i] = parent * pose_at(links[i].joint, joint_value(links[i], posture));
  }
}

std::vector<Pose> link_poses(const Arm& arm, const PostureRef& posture) {
  std::vector<Pose> poses(arm.links().size());
  link_poses(arm, posture, poses);
  return poses;
}

Pose tool_pose(const Arm& arm, const Tool& tool, const PostureRef& posture) {
  return frame_pose(arm, tool.link_index, tool.tip, posture);
}

Pose frame_pose(const Arm& arm, int at_link, const Pose& frame_in_link, const PostureRef& posture) {
  Pose pose = frame_in_link;
  for (int i = at_link; i >= 0;) {
    const Link& link = arm.links()[static_cast<std::size_t>(i)];
    pose = pose_at(link.joint, joint_value(link, posture)) * pose;
    i = link.parent_index;
  }
  return arm.mount() * pose;
}

Pose tool_jacobian(const Arm& arm, const Tool& tool, const PostureRef& posture, Jacobian& out) {
  return frame_jacobian(arm, tool.link_index, tool.tip, posture, out);
}

Pose frame_jacobian(const Arm& arm, int at_link, const Pose& frame_in_link,
                    const PostureRef& posture, Jacobian& out) {
  // Walk from the tool down to the base, keeping the tip and every moving axis met so far in the
  // frame of the link the walk stands on; one pass, no table of link poses.
  struct Axis {
    int column;
    double ratio;
    bool turns;
    Vector3 direction;
    Vector3 point;
  };
  std::array<Axis, kMaxJointsInChain> axes;
  std::size_t count = 0;
  Pose tip = frame_in_link;
  const auto carry = [&](const Pose& outer) {
    tip = outer * tip;
    for (std::size_t k = 0; k < count; ++k) {
      axes[k].direction = outer.rotation * axes[k].direction;
      axes[k].point = outer * axes[k].point;
    }
  };
  for (int i = at_link; i >= 0;) {
    const Link& link = arm.links()[static_cast<std::size_t>(i)];
    if (link.posture_index >= 0)
      axes[count++] = {link.posture_index, link.posture_ratio,
                       link.joint.kind == JointKind::revolute, link.joint.axis, Vector3::Zero()};
    carry(pose_at(link.joint, joint_value(link, posture)));
    i = link.parent_index;
  }
  carry(arm.mount());

  out.setZero(6, arm.dof());
  for (std::size_t k = 0; k < count; ++k) {
    const Axis& axis = axes[k];
    // A joint and those that follow it share a column.
    if (axis.turns) {
      out.col(axis.column).head<3>() +=
          axis.ratio * axis.direction.cross(tip.position - axis.point);
      out.col(axis.column).tail<3>() += axis.ratio * axis.direction;
    } else {
      out.col(axis.column).head<3>() += axis.ratio * axis.direction;
    }
  }
  return tip;
}

}  // namespace er
