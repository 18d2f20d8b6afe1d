#include "elbowroom/kinematics/forward.hpp"

#include <Eigen/Geometry>
#include <array>

namespace er {
namespace {

double value_of(const Link& link, const PostureRef& posture) {
  return link.posture_index < 0 ? 0.0 : posture[link.posture_index];
}

}  // namespace

void link_poses(const Arm& arm, const PostureRef& posture, std::span<Pose> out) {
  const std::vector<Link>& links = arm.links();
  for (std::size_t i = 0; i < links.size(); ++i) {
    const Pose& parent =
        i == 0 ? arm.mount() : out[static_cast<std::size_t>(links[i].parent_index)];
    out[i] = parent * pose_at(links[i].joint, value_of(links[i], posture));
  }
}

std::vector<Pose> link_poses(const Arm& arm, const PostureRef& posture) {
  std::vector<Pose> poses(arm.links().size());
  link_poses(arm, posture, poses);
  return poses;
}

Pose tool_pose(const Arm& arm, const Tool& tool, const PostureRef& posture) {
  Pose pose = tool.tip;
  for (int i = tool.link_index; i >= 0;) {
    const Link& link = arm.links()[static_cast<std::size_t>(i)];
    pose = pose_at(link.joint, value_of(link, posture)) * pose;
    i = link.parent_index;
  }
  return arm.mount() * pose;
}

Pose tool_jacobian(const Arm& arm, const Tool& tool, const PostureRef& posture, Jacobian& out) {
  // Walk from the tool down to the base, keeping the tip and every moving axis met so far in the
  // frame of the link the walk stands on; one pass, no table of link poses.
  struct Axis {
    int column;
    bool turns;
    Vector3 direction;
    Vector3 point;
  };
  std::array<Axis, kMaxJoints> axes;
  std::size_t count = 0;
  Pose tip = tool.tip;
  const auto carry = [&](const Pose& outer) {
    tip = outer * tip;
    for (std::size_t k = 0; k < count; ++k) {
      axes[k].direction = outer.rotation * axes[k].direction;
      axes[k].point = outer * axes[k].point;
    }
  };
  for (int i = tool.link_index; i >= 0;) {
    const Link& link = arm.links()[static_cast<std::size_t>(i)];
    if (link.posture_index >= 0)
      axes[count++] = {link.posture_index, link.joint.kind == JointKind::revolute, link.joint.axis,
                       Vector3::Zero()};
    carry(pose_at(link.joint, value_of(link, posture)));
    i = link.parent_index;
  }
  carry(arm.mount());

  out.setZero(6, arm.dof());
  for (std::size_t k = 0; k < count; ++k) {
    const Axis& axis = axes[k];
    if (axis.turns) {
      out.col(axis.column).head<3>() = axis.direction.cross(tip.position - axis.point);
      out.col(axis.column).tail<3>() = axis.direction;
    } else {
      out.col(axis.column).head<3>() = axis.direction;
    }
  }
  return tip;
}

}  // namespace er
