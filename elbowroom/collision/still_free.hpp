// How much of a path still keeps its clearance, in a cell that is another one than it was found in.
#pragma once

#include <cstddef>
#include <string>
#include <vector>

#include "elbowroom/collision/cell_query.hpp"

namespace er {

struct StillFree {
  std::size_t moves = 0;  ///< so many straight moves keep it whole, from the start
  double share = 0.0;     ///< so much of the next one, to a millionth of it; 0 when all do
  Nearest contact;        ///< what comes too near there; nothing when all moves keep it

  [[nodiscard]] bool is_all() const { return contact.first < 0; }
  /// "moves 1 to 2 still stand; then a and b come within 5.0 mm at 41.20 % of move 3"
  [[nodiscard]] std::string text(const CellQuery& query, double clearance) const;
};

/// Of straight joint lines through `waypoints` (two or more), each proved. Throws InputError for
/// postures of the wrong length or a negative clearance.
StillFree still_free(const CellQuery& query, const std::vector<Posture>& waypoints,
                     double clearance);

}  // namespace er
