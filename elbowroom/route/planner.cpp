#include "elbowroom/route/planner.hpp"

#include "elbowroom/route/route.hpp"

namespace er {

Way tightened(Way way, const PlannerQuestion& question, std::uint64_t seed, LineProver& prover,
              CostMeter& meter) {
  way.length_found = path_length(way.waypoints);
  way.waypoints = tighten(std::move(way.waypoints), question.tightening, seed, prover, meter);
  way.cost = meter.of(way.waypoints);
  return way;
}

}  // namespace er
