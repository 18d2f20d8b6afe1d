#include "elbowroom/reach/least_shift.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/units.hpp"

namespace er {
namespace {

constexpr double kMargin = 0.0005;  // m
constexpr int kFirst = 4;           // mm

Vector3 in_millimetres(double size, const Vector3& direction) {
  return (size * direction).array().round() / 1e3 + 0.0;
}

}  // namespace

bool would_do(const CellQuery& query, const Target& target, ReachOptions options,
              const std::string& branch) {
  options.clearance = std::max(options.clearance, target.clearance()) + kMargin;
  options.find_remedies = false;
  const auto found = reach(query, target, options);
  if (!found) return false;
  return branch.empty() ||
         std::any_of(found->solutions.begin(), found->solutions.end(),
                     [&](const ReachSolution& one) { return one.branch == branch; });
}

std::optional<Vector3> least_shift(const CellQuery& query, const Target& target,
                                   const ReachOptions& options, const Vector3& direction,
                                   double most, const std::string& branch) {
  const auto does = [&](int size) {
    const Vector3 there = target.pose().position + in_millimetres(size, direction);
    return would_do(query, target.with_pose({target.pose().rotation, there}), options, branch);
  };
  const int furthest = static_cast<int>(std::floor(to_mm(most)));
  int below = 0;
  int size = std::min(kFirst, furthest);
  while (size >= 1 && !does(size)) {
    if (size == furthest) return std::nullopt;
    below = size;
    size = std::min(2 * size, furthest);
  }
  if (size < 1) return std::nullopt;
  while (size - below > 1) {
    const int middle = (size + below) / 2;
    (does(middle) ? size : below) = middle;
  }
  return in_millimetres(size, direction);
}

std::string text_shift(const Vector3& shift) {
  const auto whole = [](double metres) { return std::round(to_mm(metres)) + 0.0; };
  return fmt::format("[{:.0f}, {:.0f}, {:.0f}] mm", whole(shift.x()), whole(shift.y()),
                     whole(shift.z()));
}

}  // namespace er
