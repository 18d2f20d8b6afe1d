#include "elbowroom/reach/pose_remedies.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "elbowroom/base/units.hpp"
#include "elbowroom/base/vector_text.hpp"
#include "elbowroom/reach/least_change.hpp"

namespace er {
namespace {

// Beyond what came nearest.
constexpr int kMostFurther = 20;  // mm
constexpr int kMostTurned = 15;   // deg

// The least of shifts along the world's axes that is less than `least`. (Once there is one, an axis
// along which all but as much does not do is left out.)
void try_axes(const CellQuery& query, const Target& target, const ReachOptions& options,
              std::optional<Vector3>& least) {
  for (const double side : {1.0, -1.0})
    for (const int axis : {2, 0, 1}) {
      const int most = std::min(
          least ? static_cast<int>(std::ceil(to_mm(least->norm()) - 1e-6)) - 1 : kMostShift,
          kMostShift);
      const auto least_within = [&](Sizes sizes) {
        return least_shift(query, target, options, side * Vector3::Unit(axis), sizes);
      };
      if (least && !least_within({most, most})) continue;
      if (const auto shift = least_within({1, most})) least = shift;
    }
}

Sizes from_nearest(double nearest, int most_beyond) {
  constexpr double kRounding = 1e-3;
  const int from = std::max(1, static_cast<int>(std::ceil(nearest - kRounding)));
  return {from, from + most_beyond};
}

// Along a shift that is not quite enough.
std::optional<Vector3> shifted_further(const CellQuery& query, const Target& target,
                                       const ReachOptions& options, const Vector3& shift) {
  if (shift.isZero()) return std::nullopt;
  return least_shift(query, target, options, shift.normalized(),
                     from_nearest(to_mm(shift.norm()), kMostFurther));
}

// On the way to an orientation that is not quite enough.
std::optional<TurnedTarget> turned_further(const CellQuery& query, const Target& target,
                                           const ReachOptions& options, const Matrix3& nearest) {
  const Vector3 turn =
      rotation_vector(product(nearest, Matrix3(target.pose().rotation.transpose())));
  if (turn.isZero()) return std::nullopt;
  return least_turn(query, target, options, turn.normalized(),
                    from_nearest(to_deg(turn.norm()), kMostTurned));
}

Remedy shifted_by(const Vector3& shift) {
  return {"move the target by " + text_mm(shift) + " (world axes)"};
}

}  // namespace

std::vector<Remedy> shift_remedies(const CellQuery& query, const Target& target,
                                   const ReachOptions& options, const Vector3& also) {
  std::optional<Vector3> least;
  if (!also.isZero())
    least = least_shift(query, target, options, also.normalized(), {1, kMostShift});
  try_axes(query, target, options, least);
  if (!least) return {};
  return {shifted_by(*least)};
}

std::vector<Remedy> pose_remedies(const CellQuery& query, const Target& target,
                                  const ReachOptions& options, const NearestPoses& nearest) {
  std::vector<Remedy> out;
  const Pose asked = target.pose();
  if (nearest.can_be_met)
    if (const auto turned = turned_further(query, target, options, nearest.least_turned.rotation))
      out.push_back({fmt::format("turn the target by {} deg, to rpy {} (world axes)",
                                 turned->degrees, text_deg(turned->rpy))});
  auto shift = shifted_further(query, target, options, nearest.as_asked.position - asked.position);
  try_axes(query, target, options, shift);
  if (shift) out.push_back(shifted_by(*shift));
  if (nearest.can_be_met) return out;
  const Vector3 rpy = told_rpy(nearest.least_turned.rotation);
  const auto both = shifted_further(query, turned_to(target, rpy), options,
                                    nearest.least_turned.position - asked.position);
  if (both && (!shift || both->norm() < shift->norm()))
    out.push_back({fmt::format("move the target by {} and turn it to rpy {} (world axes)",
                               text_mm(*both), text_deg(rpy))});
  return out;
}

}  // namespace er
