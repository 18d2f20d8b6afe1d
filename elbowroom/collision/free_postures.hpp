// Many postures of one arm looked at side by side: which of them are free?
#pragma once

#include <span>
#include <vector>

#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/collision/cover_scan.hpp"

namespace er {

/// Working memory; one per thread.
class PostureChecker {
 public:
  explicit PostureChecker(const CellQuery& query);

  /// Sets free[i] where every checked pair is further apart than `clearance` (m, >= 0) in posture
  /// i: what CellQuery::is_free says of each. Allocates nothing.
  void check(std::span<const Posture> postures, double clearance, std::span<bool> free);

 private:
  [[nodiscard]] bool is_free_where_open(std::size_t lane, double clearance) const;
  CellQuery query_;
  CoverScan scan_;
  PartPoses parts_;
};

}  // namespace er
