#include "elbowroom/collision/inside.hpp"

#include "elbowroom/collision/elements.hpp"

namespace er {
namespace {

bool is_one_in_the_other(const Shape& a, const Pose& pose_a, const Shape& b, const Pose& pose_b) {
  const Elements of_a(a, pose_a);
  const Elements of_b(b, pose_b);
  return holds_some_of(of_a, of_b) || holds_some_of(of_b, of_a);
}

}  // namespace

std::optional<Nearest> find_inside(const CellQuery& query, const PartPoses& parts) {
  const CheckedPairs& pairs = query.pairs();
  for (const CheckedPairs::WithSolid& pair : pairs.with_solid) {
    const MovingPart& moving = pairs.moving[static_cast<std::size_t>(pair.moving)];
    const Pose& pose = parts.pose(pair.moving);
    const StandingPart& other = pairs.standing[static_cast<std::size_t>(pair.standing)];
    if (pair.box.gap_to(parts.box(pair.moving)) > 0.0) continue;
    if (is_one_in_the_other(moving.shape, pose, other.shape, other.pose))
      return Nearest::of(distance(moving.shape, pose, other.shape, other.pose), moving.body,
                         other.body, other.margin);
  }
  for (const int index : pairs.self_with_solid) {
    const SelfPair& pair = pairs.self[static_cast<std::size_t>(index)];
    if (parts.box(pair.first).gap_to(parts.box(pair.second)) > 0.0) continue;
    const MovingPart& a = pairs.moving[static_cast<std::size_t>(pair.first)];
    const MovingPart& b = pairs.moving[static_cast<std::size_t>(pair.second)];
    const Pose& pose_a = parts.pose(pair.first);
    const Pose& pose_b = parts.pose(pair.second);
    if (is_one_in_the_other(a.shape, pose_a, b.shape, pose_b))
      return Nearest::of(distance(a.shape, pose_a, b.shape, pose_b), a.body, b.body);
  }
  return std::nullopt;
}

}  // namespace er
