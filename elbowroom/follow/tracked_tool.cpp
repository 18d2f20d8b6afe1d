#include "elbowroom/follow/tracked_tool.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"

namespace er {
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

// Calls use(row, axis, of a turn) for what is held.
template <class Use>
void TrackedTool::for_each_row(Use use) const {
  const std::array<bool, 3> free_turn{free_.tilt, free_.tilt, free_.turn};
  std::size_t row = 0;
  for (std::size_t i = 0; i < 3; ++i) {
    if (!free_.along[i]) use(row++, i, false);
    if (!free_turn[i]) use(row++, i, true);
  }
}

void TrackedTool::rows(const PostureRef& posture, const Matrix3& axes, StepQuestion& out) {
  tool_jacobian_along(axes, arm_, tool_, posture, jacobian_);
  out.joints = arm_.dof();
  out.rows = held();
  for_each_row([&](std::size_t row, std::size_t i, bool turn) {
    const double radius = turn ? kTurnRadius : 1.0;
    const double* entry = jacobian_.data() + (turn ? 3 + i : i);
    for (std::size_t k = 0; k < static_cast<std::size_t>(out.joints); ++k)
      out.jacobian[row][k] = radius * entry[6 * k];
  });
}

void TrackedTool::in_rows(const Matrix3& axes, const Twist& twist,
                          std::array<double, StepQuestion::kMostRows>& out) const {
  for_each_row([&](std::size_t row, std::size_t i, bool turn) {
    const auto axis = axes.col(static_cast<Eigen::Index>(i));
    out[row] = turn ? kTurnRadius * axis.dot(twist.turning) : axis.dot(twist.velocity);
  });
}

void TrackedTool::rows(const PostureRef& posture, const Pose& tip, const PostureRef& before,
                       double period, const Pose& now, const Pose& next, double ahead, double gain,
                       StepQuestion& out) {
  const Posture middle = posture + 0.5 * period * before;
  rows(middle, now.rotation, out);
  in_rows(now.rotation, twist_between(now, next, ahead), out.command);
  in_rows(now.rotation, twist_between(tip, now, 1.0 / gain), out.correction);
}

Pose TrackedTool::carried_along(const Pose& tip, const Pose& meant) const {
  Pose out = meant;
  for (std::size_t i = 0; i < 3; ++i) {
    const Vector3 axis = meant.rotation.col(static_cast<Eigen::Index>(i));
    if (free_.along[i]) out.position += axis.dot(tip.position - meant.position) * axis;
  }
  if (free_.tilt) {
    out.rotation = tip.rotation;
  } else if (free_.turn) {
    // The tool's own turn, with z brought to where it is meant to point.
    const Vector3 z = tip.rotation.col(2);
    const Vector3 wanted = meant.rotation.col(2);
    out.rotation =
        product(Eigen::Quaterniond::FromTwoVectors(z, wanted).toRotationMatrix(), tip.rotation);
  }
  return out;
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
