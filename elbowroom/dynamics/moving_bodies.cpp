#include "elbowroom/dynamics/moving_bodies.hpp"

#include <cmath>

namespace er {
namespace {

Eigen::Matrix4d moments_of(const Inertial& inertial) {
  const Vector3& c = inertial.centre;
  const Matrix3& about_centre = inertial.inertia;
  Eigen::Matrix4d out;
  out.topLeftCorner<3, 3>() = 0.5 * about_centre.trace() * Matrix3::Identity() - about_centre +
                              inertial.mass * c * c.transpose();
  out.topRightCorner<3, 1>() = inertial.mass * c;
  out.bottomLeftCorner<1, 3>() = inertial.mass * c.transpose();
  out(3, 3) = inertial.mass;
  return out;
}

void add(const Inertial& inertial, const Pose& at, MovingBody& body) {
  if (inertial.mass != 0.0) body.moments += moments_of(moved(inertial, at));
}

FixedTurn fixed_turn(double cosine, double sine) {
  using By = FixedTurn::By;
  constexpr double kRounding = 1e-15;
  if (std::abs(sine) < kRounding)
    return cosine > 0.0 ? FixedTurn{} : FixedTurn{By::half, -1.0, 0.0};
  if (std::abs(cosine) < kRounding)
    return sine > 0.0 ? FixedTurn{By::quarter, 0.0, 1.0} : FixedTurn{By::quarter_back, 0.0, -1.0};
  return {By::angle, cosine, sine};
}

void place(const LaneTree::Joint& joint, MovingBody& body) {
  body.last_turn = fixed_turn(joint.last_turn_cosine, joint.last_turn_sine);
  body.tilt = fixed_turn(joint.tilt_cosine, joint.tilt_sine);
  const auto& [by, cosine, sine] = body.last_turn;
  const Vector3& onward = joint.onward;
  body.onward = {cosine * onward.x() - sine * onward.y(), sine * onward.x() + cosine * onward.y(),
                 onward.z()};
  for (std::size_t axis = 0; axis < 3; ++axis)
    body.goes_along[axis] = body.onward[static_cast<Eigen::Index>(axis)] != 0.0;
}

Eigen::Matrix4d matrix_of(const Pose& pose) {
  Eigen::Matrix4d out = Eigen::Matrix4d::Identity();
  out.topLeftCorner<3, 3>() = pose.rotation;
  out.topRightCorner<3, 1>() = pose.position;
  return out;
}

// Counts what lies on the axes of turns with the bodies before: from where each joint is at zero,
// as from anywhere.
void hand_down_axes(MovingBodies& arm) {
  const std::vector<Pose> frames = joint_frames(arm.tree, Posture::Zero(arm.damping.size()));
  for (std::size_t j = arm.bodies.size(); j-- > 0;) {
    const LaneTree::Joint& joint = arm.tree.joints[j];
    if (joint.slide_ratio != 0.0) continue;
    MovingBody& body = arm.bodies[j];
    Eigen::Matrix4d on_axis = Eigen::Matrix4d::Zero();
    on_axis.bottomRightCorner<2, 2>() = body.moments.bottomRightCorner<2, 2>();
    body.moments -= on_axis;
    if (joint.before < 0) continue;
    const auto before = static_cast<std::size_t>(joint.before);
    const Eigen::Matrix4d way = matrix_of(frames[before].inverse() * frames[j]);
    arm.bodies[before].moments += way * on_axis * way.transpose();
  }
}

}  // namespace

MovingBodies moving_bodies(const Arm& arm, const std::optional<Payload>& payload) {
  MovingBodies out{lane_tree(arm), {}, Posture::Zero(arm.dof()), Posture::Zero(arm.dof())};
  out.bodies.resize(out.tree.joints.size());
  for (std::size_t i = 0; i < arm.links().size(); ++i) {
    const Link& link = arm.links()[i];
    if (link.posture_index >= 0) {
      out.damping[link.posture_index] +=
          link.posture_ratio * link.posture_ratio * link.joint.damping;
      out.friction[link.posture_index] += std::abs(link.posture_ratio) * link.joint.friction;
    }
    const LaneTree::Carried& carried = out.tree.links[i];
    if (carried.joint < 0) continue;
    MovingBody& body = out.bodies[static_cast<std::size_t>(carried.joint)];
    add(link.inertial, carried.at, body);
    if (payload && payload->link == static_cast<int>(i)) add(payload->inertial, carried.at, body);
  }
  for (std::size_t j = 0; j < out.bodies.size(); ++j) {
    const LaneTree::Joint& joint = out.tree.joints[j];
    place(joint, out.bodies[j]);
    if (joint.before >= 0 && joint.before + 1 != static_cast<int>(j))
      out.bodies[static_cast<std::size_t>(joint.before)].carries_others = true;
  }
  hand_down_axes(out);
  return out;
}

}  // namespace er
