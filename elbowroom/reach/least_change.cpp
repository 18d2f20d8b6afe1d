#include "elbowroom/reach/least_change.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/base/told.hpp"
#include "elbowroom/base/units.hpp"

namespace er {

using namespace literals;

namespace {

constexpr double kMargin = 0.0005;  // m
constexpr int kStarts = 24;         // of the numeric search, at first

Vector3 in_millimetres(double size, const Vector3& direction) {
  return (size * direction).array().round() / 1e3 + 0.0;
}

template <class Does>
std::optional<int> least_size(Sizes sizes, Does does) {
  int below = sizes.from - 1;
  int size = sizes.from;
  for (int step = 1; size <= sizes.most && !does(size); step *= 2) {
    if (size == sizes.most) return std::nullopt;
    below = size;
    size = std::min(size + step, sizes.most);
  }
  if (size > sizes.most) return std::nullopt;
  while (size - below > 1) {
    const int middle = (size + below) / 2;
    (does(middle) ? size : below) = middle;
  }
  return size;
}

}  // namespace

bool would_do(const CellQuery& query, const Target& target, ReachOptions options,
              const std::string& branch) {
  const auto does = [&](const ReachOptions& with) {
    const auto found = reach(query, target, with);
    if (!found) return false;
    return branch.empty() ||
           std::any_of(found->solutions.begin(), found->solutions.end(),
                       [&](const ReachSolution& one) { return one.branch == branch; });
  };
  options.find_remedies = false;
  ReachOptions quickly = options;
  quickly.clearance = std::max(options.clearance, target.clearance()) + kMargin;
  quickly.starts = std::min(options.starts, kStarts);
  // Whoever does as told asks for no more than before, and with all starts.
  return does(quickly) && does(options);
}

std::optional<Vector3> least_shift(const CellQuery& query, const Target& target,
                                   const ReachOptions& options, const Vector3& direction,
                                   Sizes millimetres, const std::string& branch) {
  const auto size = least_size(millimetres, [&](int one) {
    return would_do(query, target.moved_by(Pose::at(in_millimetres(one, direction))), options,
                    branch);
  });
  if (!size) return std::nullopt;
  return in_millimetres(*size, direction);
}

std::optional<TurnedTarget> least_turn(const CellQuery& query, const Target& target,
                                       const ReachOptions& options, const Vector3& axis,
                                       Sizes degrees) {
  const auto turned = [&](int by) {
    return told_rpy(product(rotation_about(axis, by * 1.0_deg), target.pose().rotation));
  };
  const auto size = least_size(
      degrees, [&](int one) { return would_do(query, turned_to(target, turned(one)), options); });
  if (!size) return std::nullopt;
  return TurnedTarget{*size, turned(*size)};
}

Vector3 told_rpy(const Matrix3& rotation) {
  return rpy_of(rotation).unaryExpr(
      [](double radians) { return told(radians, 10.0 * kToldAngle) + 0.0; });
}

Target turned_to(const Target& target, const Vector3& rpy) {
  return target.with_pose({rotation_from_rpy(rpy.x(), rpy.y(), rpy.z()), target.pose().position});
}

}  // namespace er
