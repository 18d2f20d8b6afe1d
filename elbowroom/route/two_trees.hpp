// The default planner: one tree grows from the start, one from all goals, towards each other.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/route/line_prover.hpp"

namespace er {

struct TwoTreesQuestion {
  Posture start = {};
  std::vector<Posture> goals = {};  ///< all free; any of them will do
  std::uint64_t seed = 1;
  int tries = 20000;
};

struct TwoTreesResult {
  std::vector<Posture> waypoints = {};  ///< empty when no way was found
  std::size_t goal = 0;
  int tries = 0;
  int nodes = 0;
};

/// After J. Kuffner and S. LaValle, "An efficient approach to single-query path planning", 2000,
/// with every edge proved instead of sampled and several roots on the goal side.
TwoTreesResult grow_two_trees(const TwoTreesQuestion& question, LineProver& prover,
                              const Supervision& supervision);

}  // namespace er
