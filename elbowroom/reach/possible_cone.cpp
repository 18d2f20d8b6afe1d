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
constexpr int kWithin = 300;  // of a cone itself: holes are smaller than the first ones are apart
constexpr int kRounds = 8;    // of cones that have a hole
constexpr int kStarts = 12;

// Of so many, evenly over a cone about z. The lattice winds round the axis by the golden angle, at
// even heights.
Vector3 direction_of(int i, int count, double half_angle) {
  const double height = 1.0 - (1.0 - std::cos(half_angle)) * (i + 0.5) / count;
  const double around = i * std::numbers::pi * (3.0 - std::sqrt(5.0));
  const double radius = std::sqrt(std::max(0.0, 1.0 - height * height));
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

// The widest cone about one of the ways that keeps away from the others.
void find_widest(const std::vector<Vector3>& ways, const std::vector<Vector3>& others,
                 PossibleCone& out) {
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
}

}  // namespace

PossibleCone possible_cone(const Arm& arm, const Target& target) {
  PossibleCone out;
  out.tried = kDirections;
  std::vector<Vector3> ways, others;
  for (int i = 0; i < kDirections; ++i) {
    const Vector3 way = direction_of(i, kDirections, std::numbers::pi);
    (can_point(arm, target, way) ? ways : others).push_back(way);
  }
  out.possible = static_cast<int>(ways.size());
  for (int round = 0; round < kRounds; ++round) {
    find_widest(ways, others, out);
    const std::size_t known = others.size();
    const Matrix3 about = rotation_with_z(out.axis);
    for (int i = 0; i < kWithin && !others.empty(); ++i) {
      const Vector3 way = product(about, direction_of(i, kWithin, out.half_angle));
      if (!can_point(arm, target, way)) others.push_back(way);
    }
    if (others.size() == known) return out;
  }
  find_widest(ways, others, out);
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
      std::floor(to_deg(half_angle)), axis.x() + 0.0, axis.y() + 0.0, axis.z() + 0.0, counted);
}

}  // namespace er
