#include "elbowroom/kinematics/forward.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>

#include "elbowroom/base/sines.hpp"
#include "elbowroom/kinematics/frame_walk.hpp"

namespace er {
namespace {

// A joint that turns, or slides, `ratio` for one of its column's unit. A joint and those that
// follow it share a column.
[[gnu::always_inline]] inline void add_turn(double ratio, const Vector3& axis,
                                            const Vector3& to_tip, double* column) {
  const Vector3 turn = ratio * axis;
  Eigen::Map<Vector3> velocity(column);
  Eigen::Map<Vector3> turning(column + 3);
  velocity += turn.cross(to_tip);
  turning += turn;
}
[[gnu::always_inline]] inline void add_slide(double ratio, const Vector3& axis, double* column) {
  Eigen::Map<Vector3> velocity(column);
  velocity += ratio * axis;
}

// With the arm's mount at `base`.
Pose jacobian_from(const Pose& base, const ChainWalk& chain, const Pose& frame_in_link,
                   const PostureRef& posture, Jacobian& out) {
  FrameWalk walked;
  walk_to_frame(base, chain, frame_in_link, posture, walked);
  const Vector3& tip = walked.frame.position;
  out.setZero(6, posture.size());
  for (std::size_t k = 0; k < chain.steps.size(); ++k) {
    const WalkStep& step = chain.steps[k];
    const Vector3 axis(walked.axis[k].data());
    double* column = out.data() + 6 * step.entry;
    if (step.turns())
      add_turn(step.turn_ratio, axis, tip - Vector3(walked.point[k].data()), column);
    else
      add_slide(step.slide_ratio, axis, column);
  }
  return walked.frame;
}

}  // namespace

void link_poses(const Arm& arm, const PostureRef& posture, std::span<Pose> out) {
  const std::vector<Link>& links = arm.links();
  const std::vector<LinkMotion>& motions = arm.link_motions();
  // In blocks, so that any number of links takes no memory.
  constexpr std::size_t kBlock = 32;
  for (std::size_t from = 0; from < links.size(); from += kBlock) {
    const std::size_t many = std::min(kBlock, links.size() - from);
    std::array<PlacedFrame, kBlock> frames;
    std::array<double, kBlock> value;
    std::array<double, kBlock> sine;
    std::array<double, kBlock> cosine;
    for (std::size_t k = 0; k < many; ++k) value[k] = joint_value(links[from + k], posture);
    sines_and_cosines(value.data(), static_cast<int>(many), sine.data(), cosine.data());
    for (std::size_t k = 0; k < many; ++k) {
      const LinkMotion& motion = motions[from + k];
      frames[k].parent = links[from + k].parent_index;
      Eigen::Map<Matrix3> rotation(frames[k].rotation.data());
      Eigen::Map<Vector3> position(frames[k].position.data());
      rotation = motion.fixed;
      position = motion.at;
      if (motion.kind == JointKind::revolute)
        rotation += cosine[k] * motion.by_cosine + sine[k] * motion.by_sine;
      if (motion.kind == JointKind::prismatic) position += value[k] * motion.along;
    }
    place_frames(arm.mount(), std::span(frames).first(many), from, out);
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

Pose frame_pose(const Arm& arm, int link, const Pose& frame_in_link, const PostureRef& posture) {
  FrameWalk out;
  walk_to_frame(arm.mount(), arm.walk_to(link), frame_in_link, posture, out);
  return out.frame;
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
  out.setZero(6, arm.dof());
  for (const int l : arm.links_to(link)) {
    const Link& on_way = arm.links()[static_cast<std::size_t>(l)];
    if (on_way.posture_index < 0) continue;
    const Pose& pose = links[static_cast<std::size_t>(l)];
    const Vector3 axis = product(pose.rotation, on_way.joint.axis);
    double* column = out.data() + 6 * on_way.posture_index;
    if (on_way.joint.kind == JointKind::revolute)
      add_turn(on_way.posture_ratio, axis, frame.position - pose.position, column);
    else
      add_slide(on_way.posture_ratio, axis, column);
  }
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
