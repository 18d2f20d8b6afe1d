#include "elbowroom/follow/tracked_tool.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

// What a radian counts beside a metre, m: about the size of a hand with its tool.
constexpr double kTurnRadius = 0.3;

Vector3 in_axes_of(const Matrix3& axes, const Vector3& vector) {
  return {axes.col(0).dot(vector), axes.col(1).dot(vector), axes.col(2).dot(vector)};
}

}  // namespace

PathFreedom path_freedom(const AtPlace& place) {
  const auto is_free = [](const Band& band, const char* what) {
    if (band.is_free()) return true;
    if (band.lower == 0.0 && band.upper == 0.0) return false;
    throw InputError(fmt::format("a path holds {} or leaves it free; it has no bands", what),
                     fmt::format("write {} = free, or leave it out", what));
  };
  PathFreedom free;
  for (std::size_t k = 0; k < 3; ++k)
    free.along[k] = is_free(place.along[k], std::array{"x", "y", "z"}[k]);
  free.turn = is_free(place.turn, "turn");
  free.tilt = place.tilt == kAnyTilt;
  if (place.tilt != 0.0 && !free.tilt)
    throw InputError("a path holds tilt or leaves it free; it has no bands",
                     "write tilt = free, or leave it out");
  if (is_free(place.standoff, "standoff") || place.axis != Vector3::UnitZ())
    throw InputError("a path leaves open x, y, z, turn (about z) and tilt (of z), nothing else");
  return free;
}

TrackedTool::TrackedTool(const Arm& arm, const Tool& tool, const PathFreedom& free)
    : arm_(arm), tool_(tool), free_(free) {
  if (free_.tilt) free_.turn = true;  // which way is a turn, if z may point anywhere?
}

int TrackedTool::held() const {
  const auto free = std::count(free_.along.begin(), free_.along.end(), true);
  return 6 - static_cast<int>(free) - (free_.tilt ? 3 : free_.turn ? 1 : 0);
}

void TrackedTool::rows(const PostureRef& posture, const Pose& tip, const PostureRef& before,
                       double period, const Pose& now, const Pose& next, double ahead, double gain,
                       StepQuestion& out) {
  const Posture middle = posture + 0.5 * period * before;
  tool_jacobian(arm_, tool_, middle, jacobian_);
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

TrackedTool::Off TrackedTool::off(const Pose& tip, const Pose& meant) const {
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
