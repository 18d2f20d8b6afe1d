#include "elbowroom/collision/free_postures.hpp"

#include <algorithm>

#include "elbowroom/base/float_rounding.hpp"
#include "elbowroom/collision/inside.hpp"

namespace er {

PostureChecker::PostureChecker(const CellQuery& query)
    : query_(query), scan_(query.covers(), query.pairs()), parts_(query) {
  // No motion at all: what balls leave open, exact shapes have to tell.
  scan_.half.fill(0.0F);
  std::fill(scan_.parts.begin(), scan_.parts.end(), std::uint8_t{0xff});
  std::fill(scan_.pairs.begin(), scan_.pairs.end(), std::uint8_t{0xff});
}

void PostureChecker::check(std::span<const Posture> postures, double clearance,
                           std::span<bool> free) {
  const bool fixed_is_free = query_.nearest_to_fixed().distance > clearance;
  // Lanes do not tell whether something is inside of something.
  const bool has_solids = query_.pairs().has_solids;
  scan_.clearance = rounded_up_to_float(clearance);
  for (std::size_t first = 0; first < postures.size(); first += CoverScan::kIntervals) {
    const std::size_t count = std::min(postures.size() - first, std::size_t{CoverScan::kIntervals});
    for (std::size_t lane = 0; lane < CoverScan::kIntervals; ++lane) {
      const Posture& q = postures[first + std::min(lane, count - 1)];
      const bool is_one = can_be_placed(q);
      for (Eigen::Index e = 0; e < q.size(); ++e)
        scan_.middle[static_cast<std::size_t>(e)][lane] = is_one ? q[e] : 0.0;
    }
    scan(query_.covers(), query_.pairs(), scan_, CoverScan::Find::all);
    for (std::size_t lane = 0; lane < count; ++lane) {
      const auto in_lane = [&](std::uint8_t bits) { return ((bits >> lane) & 1U) != 0; };
      bool& out = free[first + lane];
      out = fixed_is_free && !in_lane(scan_.blocked) && can_be_placed(postures[first + lane]);
      if (!out || !(in_lane(scan_.open) || has_solids)) continue;
      parts_.place_at(query_, postures[first + lane]);
      out = is_free_where_open(lane, clearance) && !find_inside(query_, parts_);
    }
  }
}

// What balls left open of a posture, by exact shapes.
bool PostureChecker::is_free_where_open(std::size_t lane, double clearance) const {
  const auto is_open = [&](const CoverScan::Open& open) {
    return (((open.half_way | open.exact) >> lane) & 1U) != 0;
  };
  for (std::size_t p = scan_.open_parts.size(); p-- > 0;)
    if (is_open(scan_.open_parts[p]) && !query_.part_is_free(p, clearance, parts_)) return false;
  for (std::size_t s = 0; s < scan_.open_pairs.size(); ++s)
    if (is_open(scan_.open_pairs[s]) &&
        !query_.pair_is_free(query_.pairs().self[s], clearance, parts_))
      return false;
  return true;
}

}  // namespace er
