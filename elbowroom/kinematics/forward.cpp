#include "elbowroom/kinematics/forward.hpp"

#include <Eigen/Geometry>
#include <array>
#include <cmath>

namespace er {
namespace {

// Takes `pose` on to a step's frame at value 0: its z is the joint's axis then.
void enter(const WalkStep& step, Pose& pose) { pose = pose * step.from_before; }

// Turns or slides the frame by the joint's value.
void move_by(const WalkStep& step, const PostureRef& posture, Pose& pose) {
  const double value = step.ratio * posture[step.entry] + step.offset;
  if (!step.turns) {
    pose.position += value * pose.rotation.col(2);
    return;
  }
  const double s = std::sin(value);
  const double c = std::cos(value);
  const Vector3 x = pose.rotation.col(0);
  const Vector3 y = pose.rotation.col(1);
  pose.rotation.col(0) = c * x + s * y;
  pose.rotation.col(1) = c * y - s * x;
}

}  // namespace

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
  const ChainWalk& walk = arm.walk_to(at_link);
  Pose pose = arm.mount();
  for (const WalkStep& step : walk.steps) {
    enter(step, pose);
    move_by(step, posture, pose);
  }
  return pose * (walk.link * frame_in_link);
}

Pose tool_jacobian(const Arm& arm, const Tool& tool, const PostureRef& posture, Jacobian& out) {
  return frame_jacobian(arm, tool.link_index, tool.tip, posture, out);
}

Pose frame_jacobian(const Arm& arm, int at_link, const Pose& frame_in_link,
                    const PostureRef& posture, Jacobian& out) {
  struct Axis {
    Vector3 direction;
    Vector3 point;
  };
  std::array<Axis, kMaxJointsInChain> axes;
  const ChainWalk& walk = arm.walk_to(at_link);
  Pose pose = arm.mount();
  std::size_t count = 0;
  for (const WalkStep& step : walk.steps) {
    enter(step, pose);
    axes[count++] = {pose.rotation.col(2), pose.position};
    move_by(step, posture, pose);
  }
  const Pose tip = pose * (walk.link * frame_in_link);

  out.setZero(6, arm.dof());
  for (std::size_t k = 0; k < count; ++k) {
    const WalkStep& step = walk.steps[k];
    const Vector3 axis = step.ratio * axes[k].direction;
    double* column = out.data() + 6 * step.entry;
    // A joint and those that follow it share a column.
    if (step.turns) {
      const Vector3 arm_to_tip = tip.position - axes[k].point;
      const Vector3 velocity = axis.cross(arm_to_tip);
      for (int i = 0; i < 3; ++i) {
        column[i] += velocity[i];
        column[3 + i] += axis[i];
      }
    } else {
      for (int i = 0; i < 3; ++i) column[i] += axis[i];
    }
  }
  return tip;
}

}  // namespace er
