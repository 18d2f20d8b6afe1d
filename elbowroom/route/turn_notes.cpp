#include "elbowroom/route/turn_notes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/units.hpp"

namespace er {
namespace {

constexpr double kLargeTurn = std::numbers::pi - 1e-9;
constexpr double kSameWay = 1e-6;    // rad
constexpr double kLargeSlide = 0.5;  // of the range

// The values a full turn (or more) away that are in a joint's range, nearest to `from` first; of a
// joint without ends, the two next ones.
std::vector<double> other_turns(const Joint& joint, double value, double from) {
  std::vector<double> out;
  if (joint.kind != JointKind::revolute) return out;
  for (int turns = -2; turns <= 2; ++turns) {
    const double other = value + turns * kTurn;
    if (turns == 0 || (joint.continuous && std::abs(turns) > 1)) continue;
    if (!joint.continuous && (other < joint.limits.lower || other > joint.limits.upper)) continue;
    out.push_back(other);
  }
  std::sort(out.begin(), out.end(),
            [&](double a, double b) { return std::abs(a - from) < std::abs(b - from); });
  return out;
}

}  // namespace

std::vector<std::string> full_turn_notes(const Arm& arm, const Posture& start, const Posture& end) {
  std::vector<std::string> notes;
  for (int k = 0; k < arm.dof(); ++k) {
    const Joint& joint = arm.moving_joint(k);
    const std::vector<double> others = other_turns(joint, end[k], start[k]);
    if (others.empty()) continue;
    const double longer = std::abs(end[k] - start[k]) - std::abs(others.front() - start[k]);
    const char* which = std::abs(longer) < kSameWay ? "both ways are as long"
                        : longer < 0.0              ? "the shorter way"
                                                    : "the longer way";
    notes.push_back(fmt::format("{} ends at {}, not a full turn away at {}: {} from {}", joint.name,
                                text_angle(end[k]), text_angle(others.front()), which,
                                text_angle(start[k])));
  }
  return notes;
}

std::vector<std::string> large_jumps(const Arm& arm, const std::vector<Posture>& waypoints,
                                     const std::vector<std::string>& names) {
  std::vector<std::string> notes;
  for (std::size_t i = 0; i + 1 < waypoints.size(); ++i)
    for (int k = 0; k < arm.dof(); ++k) {
      const Joint& joint = arm.moving_joint(k);
      const double from = waypoints[i][k];
      const double to = waypoints[i + 1][k];
      const bool turns = joint.kind == JointKind::revolute;
      const double range = joint.limits.upper - joint.limits.lower;
      const bool is_large = turns
                                ? std::abs(to - from) >= kLargeTurn
                                : std::isfinite(range) && std::abs(to - from) > kLargeSlide * range;
      if (!is_large) continue;
      std::string note = fmt::format("from {} to {} {} {} by {}", names[i], names[i + 1],
                                     joint.name, turns ? "turns" : "slides",
                                     turns ? text_angle(to - from) : text_length(to - from));
      const std::vector<double> others = other_turns(joint, to, from);
      if (!others.empty() && std::abs(others.front() - from) < std::abs(to - from))
        note += fmt::format("; at {} it would be in the same place after {}",
                            text_angle(others.front()), text_angle(others.front() - from));
      notes.push_back(std::move(note));
    }
  return notes;
}

}  // namespace er
