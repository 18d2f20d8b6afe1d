#include "elbowroom/routine/contact_depth.hpp"

#include <algorithm>
#include <limits>
#include <vector>

#include "elbowroom/collision/distance.hpp"

namespace er {
namespace {

// A link of its own, not a piece that it holds.
bool is_link_of_an_arm(const Cell& cell, const std::string& name) {
  for (const Arm& arm : cell.arms())
    for (std::size_t i = 0; i < arm.links().size(); ++i)
      if (!arm.links()[i].held && link_name(arm, static_cast<int>(i)) == name) return true;
  return false;
}

}  // namespace

double least_distance(const CellQuery& query, const MeantContact& pair, const Motion& motion,
                      int samples) {
  const CheckedPairs& all = query.pairs();
  const auto numbers_of = [&](const auto& list, const std::string& name) {
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < list.size(); ++i)
      if (query.name(list[i].body) == name) out.push_back(i);
    return out;
  };
  const std::vector<std::size_t> first = numbers_of(all.moving, pair.first);
  const std::vector<std::size_t> second = numbers_of(all.moving, pair.second);
  PartPoses parts(query);
  double least = std::numeric_limits<double>::infinity();
  const auto look = [&](std::size_t moving, const Shape& shape, const Pose& pose) {
    least = std::min(
        least, distance(all.moving[moving].shape, parts.pose(static_cast<int>(moving)), shape, pose)
                   .distance);
  };
  const std::vector<std::size_t> first_stands = numbers_of(all.standing, pair.first);
  const std::vector<std::size_t> second_stands = numbers_of(all.standing, pair.second);
  const auto look_at_standing = [&](const std::vector<std::size_t>& own,
                                    const std::vector<std::size_t>& stands) {
    for (const std::size_t s : stands)
      for (const std::size_t m : own) look(m, all.standing[s].shape, all.standing[s].pose);
  };
  JointState state;
  for (int i = 0; i <= samples; ++i) {
    motion.at(motion.duration() * i / samples, state);
    parts.place_at(query, state.position);
    look_at_standing(first, second_stands);
    look_at_standing(second, first_stands);
    for (const std::size_t m : first)
      for (const std::size_t k : second)
        look(m, all.moving[k].shape, parts.pose(static_cast<int>(k)));
  }
  return least;
}

double counted_distance(double least, const Cell& cell, const MeantContact& pair,
                        double uncertainty) {
  const auto is_piece = [&](const std::string& name) {
    return std::any_of(cell.pieces().begin(), cell.pieces().end(),
                       [&](const Body& piece) { return piece.name == name; });
  };
  const bool comes_to_grip =
      is_piece(pair.first) != is_piece(pair.second) &&
      (is_link_of_an_arm(cell, pair.first) || is_link_of_an_arm(cell, pair.second));
  return comes_to_grip ? least - uncertainty : least;
}

}  // namespace er
