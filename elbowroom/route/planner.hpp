// What every planner is asked, and what it gives.
#pragma once

#include <cstdint>
#include <limits>
#include <vector>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/route/cost_meter.hpp"
#include "elbowroom/route/line_prover.hpp"
#include "elbowroom/route/tighten.hpp"

namespace er {

/// From a posture to any of a few, all of them free.
struct PlannerQuestion {
  Posture start = {};
  std::vector<Posture> goals = {};
  std::uint64_t seed = 1;
  int tries = 20000;      ///< random postures, of all that is searched for the question
  int searches = 3;       ///< two-tree searches that race
  bool draw_back = true;  ///< one of them begins with the tool drawn back
  int rounds = 30;        ///< of an improving search, at most
  Tightening tightening = {};
  RouteCost cost = {};
  /// Seconds after which nothing new is begun. What is found then depends on the machine.
  double seconds = std::numeric_limits<double>::infinity();
};

/// Straight lines through waypoints, all proved.
struct Way {
  std::vector<Posture> waypoints = {};  ///< empty when there is none
  std::size_t goal = 0;                 ///< where it ends
  double cost = 0.0;
  double length_found = 0.0;  ///< before it was tightened, rad (and m)

  [[nodiscard]] bool exists() const { return !waypoints.empty(); }
};

/// The way made cheaper, with what it costs.
Way tightened(Way way, const PlannerQuestion& question, std::uint64_t seed, LineProver& prover,
              CostMeter& meter);

struct Search {
  Way way;
  int tries = 0;  ///< random postures tried
  int nodes = 0;  ///< postures joined to the ends
  /// An improving search: the cost after each round.
  std::vector<double> costs = {};
  bool out_of_time = false;  ///< `seconds` is what ended it
};

/// A planner: proves its lines with `prover` (or others, whose tally it adds) and gives the same
/// for the same question, whatever the number of threads.
using Planner = Search (*)(const PlannerQuestion& question, LineProver& prover,
                           const Supervision& supervision);

}  // namespace er
