// How near anything comes on a whole path.
#pragma once

#include <vector>

#include "elbowroom/collision/sweep.hpp"

namespace er {

/// The least distance along a move, bracketed: `lower` is proved, `nearest` was found at `at`.
struct LeastClearance {
  double lower = std::numeric_limits<double>::infinity();
  Nearest nearest;
  double at = 0.0;  ///< over the postures given: 1.5 is half-way from the second to the third
};

/// Least clearance along straight joint lines through `postures` (one or more), to within
/// `accuracy` metres.
LeastClearance least_clearance(const CellQuery& query, const std::vector<Posture>& postures,
                               double accuracy = 1e-4);

}  // namespace er
