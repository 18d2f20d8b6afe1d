#include "elbowroom/route/repair.hpp"

#include <algorithm>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/route/cost_meter.hpp"
#include "elbowroom/route/line_prover.hpp"

namespace er {
namespace {

// From which waypoint on the moves keep the clearance to the end; the last one at the latest.
std::size_t free_from(const CellQuery& query, const std::vector<Posture>& waypoints,
                      double clearance) {
  LineProver prover(query, clearance);
  std::size_t first = waypoints.size() - 1;
  while (first > 0 && prover.is_free(waypoints[first - 1], waypoints[first])) --first;
  return first;
}

}  // namespace

Verdict<Repaired> repair_route(const CellQuery& query, const std::vector<Posture>& waypoints,
                               const RouteOptions& options, const Supervision& supervision) {
  if (!options.rules.empty())
    throw InputError("a route that is repaired does not know of rules",
                     "find it anew, with them, instead");
  const Stopwatch watch;
  Repaired out;
  out.before = still_free(query, waypoints, options.clearance);
  Route& route = out.route;
  if (out.before.is_all()) {
    out.kept = out.before.moves;
    route.waypoints = waypoints;
    route.clearance = options.clearance;
  } else {
    // Back to the old way wherever that is free to its end.
    const std::size_t back =
        std::max(free_from(query, waypoints, options.clearance), out.before.moves + 1);
    const std::vector<Posture> goals(waypoints.begin() + static_cast<std::ptrdiff_t>(back),
                                     waypoints.end());
    RouteOptions between = options;
    between.least_within = 0.0;  // that of the whole is looked for
    auto found = find_route(query, waypoints[out.before.moves], goals, between, supervision);
    if (!found) return found.reason();
    route = std::move(found).value();
    route.figures.length_found -= route.length;  // what tightening took off
    out.kept = out.before.moves;
    const std::size_t joined = back + route.goal;
    out.again = waypoints.size() - 1 - joined;
    route.waypoints.insert(route.waypoints.begin(), waypoints.begin(),
                           waypoints.begin() + static_cast<std::ptrdiff_t>(out.kept));
    route.waypoints.insert(route.waypoints.end(),
                           waypoints.begin() + static_cast<std::ptrdiff_t>(joined + 1),
                           waypoints.end());
  }
  route.goal = 0;
  route.length = path_length(route.waypoints);
  route.figures.length_found += route.length;
  route.figures.lines += static_cast<long>(out.kept + out.again);
  route.cost = CostMeter(query, options.cost, options.clearance).of(route.waypoints);
  route.figures.costs.clear();  // of what is new alone
  find_least(query, options.least_within, route);
  route.figures.seconds = watch.seconds();
  return out;
}

}  // namespace er
