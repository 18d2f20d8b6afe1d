#include "elbowroom/route/repair.hpp"

#include <algorithm>
#include <memory>

#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/route/cost_meter.hpp"
#include "elbowroom/route/line_prover.hpp"

namespace er {
namespace {

// From which waypoint on the moves keep the clearance, and the rules, to the end; the last one at
// the latest.
std::size_t free_from(LineProver& prover, const std::vector<Posture>& waypoints) {
  std::size_t first = waypoints.size() - 1;
  while (first > 0 && prover.is_free(waypoints[first - 1], waypoints[first])) --first;
  return first;
}

// So many of the first `moves` keep the rules.
std::size_t moves_by_rules(const Rules& rules, const std::vector<Posture>& waypoints,
                           std::size_t moves, std::string& broken) {
  for (std::size_t i = 0; i < moves; ++i)
    if (const int rule = rules.broken_between(waypoints[i], waypoints[i + 1]); rule >= 0) {
      broken = rules.name(rule);
      return i;
    }
  return moves;
}

}  // namespace

Verdict<Repaired> repair_route(const CellQuery& query, const std::vector<Posture>& waypoints,
                               const RouteOptions& options, const Supervision& supervision) {
  const Stopwatch watch;
  Repaired out;
  out.before = still_free(query, waypoints, options.clearance);
  const auto rules = std::make_shared<const Rules>(query, options.rules);
  const std::size_t stand = moves_by_rules(*rules, waypoints, out.before.moves, out.broken_rule);
  Route& route = out.route;
  if (out.before.is_all() && stand == out.before.moves) {
    out.kept = stand;
    route.waypoints = waypoints;
    route.clearance = options.clearance;
    for (const Requirement& rule : options.rules)
      if (rule.on) route.kept.push_back(kept_text(rule));
  } else {
    // Back to the old way wherever that is free to its end.
    LineProver prover(query, options.clearance, rules->empty() ? nullptr : rules);
    const std::size_t back = std::max(free_from(prover, waypoints), stand + 1);
    const std::vector<Posture> goals(waypoints.begin() + static_cast<std::ptrdiff_t>(back),
                                     waypoints.end());
    RouteOptions between = options;
    between.least_within = 0.0;  // that of the whole is looked for
    auto found = find_route(query, waypoints[stand], goals, between, supervision);
    if (!found) return found.reason();
    route = std::move(found).value();
    route.figures.length_found -= route.length;  // what tightening took off
    out.kept = stand;
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
