// What proofs are held against: looks at many postures along a line.
#pragma once

#include <algorithm>
#include <vector>

#include "elbowroom/collision/cell_query.hpp"

namespace er::test {

/// The least distance at `samples` + 1 postures along a line.
inline double sampled_least(const CellQuery& query, const Posture& from, const Posture& to,
                            int samples) {
  PartPoses parts(query);
  double least = 1e9;
  for (int i = 0; i <= samples; ++i)
    least = std::min(least, query.nearest(from + (to - from) * i / samples, parts).distance);
  return least;
}

/// The same along straight lines through waypoints, on each.
inline double sampled_least(const CellQuery& query, const std::vector<Posture>& waypoints,
                            int samples) {
  double least = 1e9;
  for (std::size_t i = 0; i + 1 < waypoints.size(); ++i)
    least = std::min(least, sampled_least(query, waypoints[i], waypoints[i + 1], samples));
  return least;
}

}  // namespace er::test
