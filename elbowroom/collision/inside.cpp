#include "elbowroom/collision/inside.hpp"

#include "elbowroom/collision/elements.hpp"

namespace er {

std::optional<Nearest> find_inside(const CellQuery& query, const PartPoses& parts) {
  const CheckedPairs& pairs = query.pairs();
  std::optional<Nearest> found;
  if (!pairs.has_solids) return found;
  const auto look = [&](const MovingPart& a, const Pose& pose_a, const Shape& b, const Pose& pose_b,
                        int body_b, double margin) {
    if (is_solid_mesh(a.shape) || is_solid_mesh(b))
      if (is_one_in_the_other({a.shape, pose_a}, {b, pose_b}))
        found = Nearest::of(distance(a.shape, pose_a, b, pose_b), a.body, body_b, margin);
    return !found;
  };
  for (std::size_t i = 0; i < pairs.moving.size() && !found; ++i)
    pairs.standing_tree.for_each_near(
        parts.box(static_cast<int>(i)), [] { return 0.0; },
        [&](int item) {
          const StandingPart& other = pairs.standing[static_cast<std::size_t>(item)];
          return pairs.meant[i][static_cast<std::size_t>(other.body)] ||
                 look(pairs.moving[i], parts.pose(static_cast<int>(i)), other.shape, other.pose,
                      other.body, other.margin);
        });
  for (std::size_t s = 0; s < pairs.self.size() && !found; ++s) {
    const SelfPair& pair = pairs.self[s];
    if (parts.box(pair.first).gap_to(parts.box(pair.second)) > 0.0) continue;
    const MovingPart& other = pairs.moving[static_cast<std::size_t>(pair.second)];
    look(pairs.moving[static_cast<std::size_t>(pair.first)], parts.pose(pair.first), other.shape,
         parts.pose(pair.second), other.body, 0.0);
  }
  return found;
}

}  // namespace er
