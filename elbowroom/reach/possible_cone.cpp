#include "elbowroom/reach/possible_cone.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/units.hpp"
#include "elbowroom/reach/side_by_side.hpp"

namespace er {
namespace {

constexpr int kDirections = 200;
constexpr int kStarts = 12;

// The lattice winds round the axis by the golden angle, at even heights.
Vector3 direction_of(int i) {
  const double height = 1.0 - (2.0 * i + 1.0) / kDirections;
  const double around = i * std::numbers::pi * (3.0 - std::sqrt(5.0));
  const double radius = std::sqrt(1.0 - height * height);
  return {radius * std::cos(around), radius * std::sin(around), height};
}

bool can_point(const Arm& arm, const Target& target, const Vector3& way) {
  Requirement pointing = *target.full_pose();
  pointing.holds =
      AtPlace{.at = {rotation_with_z(way), target.pose().position}, .turn = Band::free()};
  const Target asked = Target(target).changed(std::move(pointing));
  return posture_from_starts(TargetOnArm(arm, asked), kStarts).has_value();
}

double angle_between(const Vector3& a, const Vector3& b) {
  return std::acos(std::clamp(a.dot(b), -1.0, 1.0));
}

}  // namespace

PossibleCone possible_cone(const Arm& arm, const Target& target) {
  PossibleCone out;
  out.tried = kDirections;
  std::vector<Vector3> ways, others;
  for (int i = 0; i < kDirections; ++i)
    (can_point(arm, target, direction_of(i)) ? ways : others).push_back(direction_of(i));
  out.possible = static_cast<int>(ways.size());
  const double spacing = std::sqrt(4.0 * std::numbers::pi / kDirections);
  double widest = -1.0;
  for (const Vector3& way : ways) {
    double room = std::numbers::pi;
    for (const Vector3& other : others) room = std::min(room, angle_between(way, other));
    if (room <= widest) continue;
    widest = room;
    out.axis = way;
    out.half_angle = others.empty() ? std::numbers::pi : std::max(0.0, room - spacing);
  }
  return out;
}

std::string PossibleCone::text() const {
  const std::string counted = fmt::format("{} of {} directions tried", possible, tried);
  if (possible == 0) return fmt::format("the tool's z can point no way there ({})", counted);
  if (possible == tried)
    return fmt::format("the tool's z may point any way there ({}), but not turned like this",
                       counted);
  return fmt::format(
      "the tool's z may point any way within {:.0f} deg of [{:.2f}, {:.2f}, {:.2f}] "
      "there ({})",
      to_deg(half_angle), axis.x() + 0.0, axis.y() + 0.0, axis.z() + 0.0, counted);
}

}  // namespace er
