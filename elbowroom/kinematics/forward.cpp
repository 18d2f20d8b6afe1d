#include "elbowroom/kinematics/forward.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>

#include "elbowroom/base/sines.hpp"

namespace er {
namespace {

// A frame that is walked along a chain. Four rows, the last unused: they fill vector registers.
struct Walker {
  using Four = Eigen::Vector4d;
  Four x, y, z, position;

  explicit Walker(const Pose& pose)
      : x(padded(pose.rotation.col(0))),
        y(padded(pose.rotation.col(1))),
        z(padded(pose.rotation.col(2))),
        position(padded(pose.position)) {}

  [[gnu::always_inline]] void take(const WalkStep& step, double sine, double cosine, double slide) {
    const Four turned_x = cosine * x + sine * y;
    const Four turned_y = cosine * y - sine * x;
    position +=
        step.onward[0] * turned_x + step.onward[1] * turned_y + (step.onward[2] + slide) * z;
    x = turned_x;
    y = step.tilt_cosine * turned_y + step.tilt_sine * z;
    z = step.tilt_cosine * z - step.tilt_sine * turned_y;
  }

  // On by a fixed pose.
  [[gnu::always_inline]] void take(const Pose& by) {
    const auto seen = [&](const Vector3& v) -> Four { return v[0] * x + v[1] * y + v[2] * z; };
    position += seen(by.position);
    const Four new_x = seen(by.rotation.col(0));
    const Four new_y = seen(by.rotation.col(1));
    z = seen(by.rotation.col(2));
    x = new_x;
    y = new_y;
  }

  [[nodiscard]] Pose pose() const {
    Pose out;
    for (int i = 0; i < 3; ++i) {
      out.rotation(i, 0) = x[i];
      out.rotation(i, 1) = y[i];
      out.rotation(i, 2) = z[i];
      out.position[i] = position[i];
    }
    return out;
  }

 private:
  static Four padded(const Vector3& v) { return {v[0], v[1], v[2], 0.0}; }
};

// The turns of a walk's steps, their sines and cosines.
struct Turns {
  std::array<double, kMaxMovingLinks> sine;
  std::array<double, kMaxMovingLinks> cosine;

  Turns(const ChainWalk& walk, const PostureRef& posture) {
    std::array<double, kMaxMovingLinks> angle;
    for (std::size_t i = 0; i < walk.steps.size(); ++i)
      angle[i] =
          walk.steps[i].turn_ratio * posture[walk.steps[i].entry] + walk.steps[i].turn_offset;
    sines_and_cosines(angle.data(), static_cast<int>(walk.steps.size()), sine.data(),
                      cosine.data());
  }
};

}  // namespace

void link_poses(const Arm& arm, const PostureRef& posture, std::span<Pose> out) {
  const std::vector<Link>& links = arm.links();
  const std::vector<LinkMotion>& motions = arm.link_motions();
  // In blocks, so that any number of links takes no memory.
  constexpr std::size_t kBlock = 32;
  for (std::size_t from = 0; from < links.size(); from += kBlock) {
    const std::size_t many = std::min(kBlock, links.size() - from);
    std::array<double, kBlock> value;
    std::array<double, kBlock> sine;
    std::array<double, kBlock> cosine;
    for (std::size_t k = 0; k < many; ++k) value[k] = joint_value(links[from + k], posture);
    sines_and_cosines(value.data(), static_cast<int>(many), sine.data(), cosine.data());
    for (std::size_t k = 0; k < many; ++k) {
      const LinkMotion& motion = motions[from + k];
      const int parent = links[from + k].parent_index;
      Pose own{motion.fixed, motion.at};
      if (motion.kind == JointKind::revolute)
        own.rotation += cosine[k] * motion.by_cosine + sine[k] * motion.by_sine;
      if (motion.kind == JointKind::prismatic) own.position += value[k] * motion.along;
      out[from + k] = (parent < 0 ? arm.mount() : out[static_cast<std::size_t>(parent)]) * own;
    }
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
  const Turns turns(walk, posture);
  Walker at(arm.mount());
  at.take(walk.start);
  for (std::size_t i = 0; i < walk.steps.size(); ++i) {
    const WalkStep& step = walk.steps[i];
    at.take(step, turns.sine[i], turns.cosine[i], step.slide_ratio * posture[step.entry]);
  }
  at.take(walk.end);
  at.take(frame_in_link);
  return at.pose();
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
  std::array<Axis, kMaxMovingLinks> axes;
  const ChainWalk& walk = arm.walk_to(at_link);
  const std::size_t count = walk.steps.size();
  const Turns turns(walk, posture);
  Walker at(arm.mount());
  at.take(walk.start);
  for (std::size_t i = 0; i < count; ++i) {
    const WalkStep& step = walk.steps[i];
    axes[i] = {at.z.head<3>(), at.position.head<3>()};
    at.take(step, turns.sine[i], turns.cosine[i], step.slide_ratio * posture[step.entry]);
  }
  at.take(walk.end);
  at.take(frame_in_link);
  const Pose tip = at.pose();

  out.setZero(6, arm.dof());
  for (std::size_t k = 0; k < count; ++k) {
    const WalkStep& step = walk.steps[k];
    double* column = out.data() + 6 * step.entry;
    // A joint and those that follow it share a column.
    if (step.turns()) {
      const Vector3 axis = step.turn_ratio * axes[k].direction;
      const Vector3 velocity = axis.cross(tip.position - axes[k].point);
      for (int i = 0; i < 3; ++i) {
        column[i] += velocity[i];
        column[3 + i] += axis[i];
      }
    } else {
      for (int i = 0; i < 3; ++i) column[i] += step.slide_ratio * axes[k].direction[i];
    }
  }
  return tip;
}

Vector3 point_velocity(const Arm& arm, int link, const Vector3& point_in_link,
                       const PostureRef& posture, const PostureRef& velocity) {
  Jacobian jacobian;
  frame_jacobian(arm, link, Pose::at(point_in_link), posture, jacobian);
  return jacobian.topRows<3>() * velocity;
}

}  // namespace er
