#include "elbowroom/follow/tracked_tool.hpp"

#include <Eigen/Geometry>
#include <cmath>

namespace er {
namespace {

// What a radian counts beside a metre, m: about the size of a hand with its tool.
constexpr double kTurnRadius = 0.3;

Vector3 in_axes_of(const Matrix3& axes, const Vector3& vector) {
  return {axes.col(0).dot(vector), axes.col(1).dot(vector), axes.col(2).dot(vector)};
}

}  // namespace

int rows_of(const PathFreedom& free) {
  int rows = 6;
  for (const bool one : free.along) rows -= one ? 1 : 0;
  return rows - (free.tilt ? 3 : free.turn ? 1 : 0);
}

TrackedTool::TrackedTool(const Arm& arm, const Tool& tool, const PathFreedom& free)
    : arm_(arm), tool_(tool), free_(free) {
  if (free_.tilt) free_.turn = true;  // which way is a turn, if z may point anywhere?
}

void TrackedTool::rows(const PostureRef& posture, const PostureRef& before, double period,
                       const Pose& now, const Pose& next, double ahead, double gain,
                       StepQuestion& out) {
  const Posture middle = posture + 0.5 * period * before;
  tool_jacobian(arm_, tool_, middle, jacobian_);
  const Pose tip = tool_pose(arm_, tool_, posture);
  const Twist onward = twist_between(now, next, ahead);
  const Twist back = twist_between(tip, now, 1.0 / gain);
  const Matrix3& axes = now.rotation;
  out.joints = arm_.dof();
  out.rows = 0;
  const std::array<bool, 3> free_turn{free_.tilt, free_.tilt, free_.turn};
  const auto add = [&](const Vector3& axis, Eigen::Index first, double radius, double command,
                       double correction) {
    const auto row = static_cast<std::size_t>(out.rows++);
    for (Eigen::Index k = 0; k < out.joints; ++k)
      out.jacobian[row][static_cast<std::size_t>(k)] =
          radius * (axis[0] * jacobian_(first, k) + axis[1] * jacobian_(first + 1, k) +
                    axis[2] * jacobian_(first + 2, k));
    out.command[row] = radius * command;
    out.correction[row] = radius * correction;
  };
  for (Eigen::Index i = 0; i < 3; ++i) {
    const Vector3 axis = axes.col(i);
    if (!free_.along[static_cast<std::size_t>(i)])
      add(axis, 0, 1.0, axis.dot(onward.velocity), axis.dot(back.velocity));
    if (!free_turn[static_cast<std::size_t>(i)])
      add(axis, 3, kTurnRadius, axis.dot(onward.turning), axis.dot(back.turning));
  }
}

TrackedTool::Off TrackedTool::off(const PostureRef& posture, const Pose& meant) const {
  const Pose tip = tool_pose(arm_, tool_, posture);
  Vector3 shift = in_axes_of(meant.rotation, meant.position - tip.position);
  for (std::size_t i = 0; i < 3; ++i)
    if (free_.along[i]) shift[static_cast<Eigen::Index>(i)] = 0.0;
  const Vector3 z = tip.rotation.col(2);
  const Vector3 wanted = meant.rotation.col(2);
  double angle = 0.0;
  if (free_.turn && !free_.tilt) {
    angle = std::atan2(z.cross(wanted).norm(), z.dot(wanted));
  } else if (!free_.turn) {
    angle = twist_between(tip, meant, 1.0).turning.norm();
  }
  return {shift.norm(), angle};
}

Target TrackedTool::target_at(const Pose& meant) const {
  AtPlace place{.at = meant};
  for (std::size_t i = 0; i < 3; ++i)
    if (free_.along[i]) place.along[i] = Band::free();
  if (free_.turn) place.turn = Band::free();
  if (free_.tilt) place.tilt = kAnyTilt;
  return Target{}.require({.name = "place", .of = tool_.name, .holds = place});
}

}  // namespace er
