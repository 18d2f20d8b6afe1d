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
  struct Axis {
    int column;
    double ratio;
    bool turns;
    Vector3 direction;
    Vector3 point;
  };
  std::array<Axis, kMaxJointsInChain> axes;
  std::size_t count = 0;
  Pose pose = arm.mount();
  for (const int i : arm.links_to(at_link)) {
    const Link& link = arm.links()[static_cast<std::size_t>(i)];
    pose = pose * link.joint.origin;
    if (link.posture_index < 0) continue;
    const double value = joint_value(link, posture);
    const Vector3 direction = product(pose.rotation, link.joint.axis);
    const bool turns = link.joint.kind == JointKind::revolute;
    if (turns) {
      pose.rotation = product(pose.rotation, rotation_about(link.joint.axis, value));
    } else {
      pose.position += value * direction;
    }
    axes[count++] = {link.posture_index, link.posture_ratio, turns, direction, pose.position};
  }
  const Pose tip = pose * frame_in_link;

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
