#include "elbowroom/route/route.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <memory>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/free_postures.hpp"
#include "elbowroom/reach/reach.hpp"
#include "elbowroom/route/improve.hpp"
#include "elbowroom/route/nearest_free.hpp"
#include "elbowroom/route/no_route.hpp"
#include "elbowroom/route/race.hpp"
#include "elbowroom/route/roadmap.hpp"

namespace er {
namespace {

constexpr int kRemedyTries = 2000;

void check_question(const CellQuery& query, const Posture& start, const std::vector<Posture>& goals,
                    const RouteOptions& options) {
  const Arm& arm = query.arm();
  require_ranges(arm);
  arm.check_posture(start, "the start of the route");
  if (goals.empty()) throw InputError("a route needs at least one goal");
  for (const Posture& goal : goals) arm.check_posture(goal, "a goal of the route");
  check_clearance(options.clearance);
  if (!(options.seconds > 0.0))
    throw InputError(fmt::format("a search needs time, found {:g} s", options.seconds));
}

// Those that can be stood at, by number.
std::vector<std::size_t> free_goals(const CellQuery& query, const std::vector<Posture>& goals,
                                    double clearance, const Rules* rules) {
  const auto free = std::make_unique<bool[]>(goals.size());
  PostureChecker(query).check(goals, clearance, {free.get(), goals.size()});
  std::vector<std::size_t> open;
  for (std::size_t g = 0; g < goals.size(); ++g)
    if (free[g] && query.arm().limit_breach(goals[g]).empty() &&
        (rules == nullptr || rules->broken_at(goals[g]) < 0))
      open.push_back(g);
  return open;
}

Reason blocked_ends(const CellQuery& query, const std::vector<Posture>& goals, double clearance) {
  const std::string fault = query.fault_of(goals.front(), clearance);
  if (goals.size() == 1) return {Cause::goal_blocked, "no: at the goal: " + fault};
  return {
      Cause::goal_blocked,
      fmt::format("no: none of the {} goals can be stood at; the first: {}", goals.size(), fault)};
}

// Goals that can be stood at, but do not keep the rules.
Reason broken_ends(const std::vector<Posture>& goals, const Rules& rules) {
  const std::string fault = rules.fault_of(goals.front());
  if (goals.size() == 1) return {Cause::goal_blocked, "no: at the goal: " + fault};
  return {
      Cause::goal_blocked,
      fmt::format("no: none of the {} goals keeps the rules; the first: {}", goals.size(), fault)};
}

// Adds the free posture nearest to one that is blocked, as a remedy where it makes a route.
Reason with_free_posture(Reason reason, const CellQuery& query, const Posture& blocked,
                         const RouteOptions& options, const char* where, const auto& has_route) {
  if (!options.find_remedies) return reason;
  const auto free = nearest_free(query, blocked, options.clearance, options.seed);
  if (!free) {
    reason.details.emplace_back("no free posture was found near it");
    return reason;
  }
  reason.postures.push_back(*free);
  const RouteOptions once = only_whether(options, kRemedyTries);
  const std::string changed = changed_joints(query.arm(), blocked, *free);
  if (has_route(*free, once))
    reason.remedies.push_back({fmt::format("{} with {}, the rest as asked", where, changed)});
  else
    reason.details.push_back(fmt::format("free nearby, but without a route: {}", changed));
  return reason;
}

// The nearest goal that a free straight line leads to.
Way straight_way(const PlannerQuestion& question, LineProver& prover) {
  Way way;
  for (std::size_t g = 0; g < question.goals.size() && !way.exists(); ++g)
    if (prover.is_free(question.start, question.goals[g]))
      way = {.waypoints = {question.start, question.goals[g]}, .goal = g};
  if (!way.exists()) return way;
  way.length_found = path_length(way.waypoints);
  way.cost = CostMeter(prover.query(), question.cost, prover.clearance()).of(way.waypoints);
  return way;
}

// Straight on where that is free, then along the roadmap, then by the planner: the cheapest of what
// was looked for.
Search search_for(const PlannerQuestion& question, const RouteOptions& options, LineProver& prover,
                  RouteFigures& figures, const Supervision& supervision) {
  const bool is_quick = options.planner == RoutePlanner::two_trees;
  Way known = straight_way(question, prover);
  // Nothing is cheaper than straight to the nearest goal; else it is only quick.
  if (known.exists() && options.cost.is_travel_alone() && (known.goal == 0 || is_quick))
    return {.way = known};
  if (options.roadmap) {
    Search along = options.roadmap->find(question, prover);
    figures.from_roadmap = along.way.exists() && (!known.exists() || along.way.cost < known.cost);
    if (figures.from_roadmap) known = along.way;
    if (figures.from_roadmap && is_quick) return along;
  }
  const Planner plan = is_quick ? race_two_trees : improve;
  Search search = plan(question, prover, supervision);
  if (known.exists() && (!search.way.exists() || known.cost <= search.way.cost)) {
    search.way = known;
    search.costs.clear();  // none of what it found
    return search;
  }
  figures.from_roadmap = false;
  if (options.roadmap && search.way.exists()) options.roadmap->learn(search.way.waypoints);
  return search;
}

Reason no_route(const Search& search, const PlannerQuestion& question, const LineProver& prover,
                const RouteOptions& options, const Supervision& supervision) {
  if (supervision.stop.stop_requested())
    return {Cause::no_route,
            fmt::format("no: told to stop after {} tries, before a route was found", search.tries)};
  Reason reason{
      Cause::no_route,
      fmt::format(
          "no: no route found in {} tr{}{} ({} postures joined to the two "
          "ends); lines were blocked most by {}",
          search.tries, search.tries == 1 ? "y" : "ies",
          search.out_of_time ? fmt::format(", for which there were {:g} s,", options.seconds) : "",
          search.nodes, prover.what_blocked_most()),
      {{"tries", static_cast<double>(search.tries), ""}}};
  if (options.find_remedies && !options.rules.empty()) {
    RouteOptions without = only_whether(options, options.tries);
    without.rules.clear();
    if (find_route(prover.query(), question.start, question.goals, without, supervision)) {
      reason.remedies.push_back({options.rules.size() == 1
                                     ? fmt::format("without rule '{}'", options.rules.front().name)
                                     : "without the rules"});
      return reason;
    }
  }
  if (options.find_remedies)
    explain_no_route(reason, prover.query(),
                     {question.start, question.goals, prover.bodies_that_blocked()}, options,
                     supervision);
  return reason;
}

}  // namespace

double path_length(const std::vector<Posture>& waypoints) {
  double length = 0.0;
  for (std::size_t i = 0; i + 1 < waypoints.size(); ++i)
    length += (waypoints[i + 1] - waypoints[i]).norm();
  return length;
}

void find_least(const CellQuery& query, double within, Route& route) {
  route.least = {};
  route.least.lower = route.clearance;  // the sweeps proved that
  if (within <= 0.0) return;
  route.least = least_clearance(query, route.waypoints, within);
  route.least.lower = std::max(route.least.lower, route.clearance);
}

Verdict<Route> find_route(const CellQuery& query, const Posture& start,
                          const std::vector<Posture>& goals, const RouteOptions& options,
                          const Supervision& supervision) {
  const Stopwatch watch;
  check_question(query, start, goals, options);
  if (const std::string fault = query.fault_of(start, options.clearance); !fault.empty())
    return with_free_posture({Cause::start_blocked, "no: at the start: " + fault}, query, start,
                             options, "start", [&](const Posture& free, const RouteOptions& once) {
                               return bool(find_route(query, free, goals, once, supervision));
                             });

  auto rules = std::make_shared<const Rules>(query, options.rules);
  if (rules->empty()) rules = nullptr;  // none, or all of them switched off
  if (rules && rules->broken_at(start) >= 0)
    return Reason{Cause::start_blocked, "no: at the start: " + rules->fault_of(start)};
  std::vector<std::size_t> open = free_goals(query, goals, options.clearance, rules.get());
  if (open.empty() && rules && !free_goals(query, goals, options.clearance, nullptr).empty())
    return broken_ends(goals, *rules);
  if (open.empty())
    return with_free_posture(blocked_ends(query, goals, options.clearance), query, goals.front(),
                             options, "end", [&](const Posture& free, const RouteOptions& once) {
                               return bool(find_route(query, start, {free}, once, supervision));
                             });
  std::stable_sort(open.begin(), open.end(), [&](std::size_t a, std::size_t b) {
    return (goals[a] - start).squaredNorm() < (goals[b] - start).squaredNorm();
  });

  PlannerQuestion question{.start = start,
                           .goals = {},
                           .seed = options.seed,
                           .tries = options.tries,
                           .searches = options.searches,
                           .draw_back = options.draw_back,
                           .rounds = options.rounds,
                           .tightening = {options.shortcuts, options.worthwhile},
                           .cost = options.cost,
                           .seconds = options.seconds};
  for (const std::size_t g : open) question.goals.push_back(goals[g]);
  LineProver prover(query, options.clearance, rules);
  Route route;
  route.clearance = options.clearance;
  const Search search = search_for(question, options, prover, route.figures, supervision);
  route.figures.tries = search.tries;
  route.figures.nodes = search.nodes;
  route.figures.costs = search.costs;
  route.figures.out_of_time = search.out_of_time;
  if (!search.way.exists()) return no_route(search, question, prover, options, supervision);
  route.waypoints = search.way.waypoints;
  route.goal = open[search.way.goal];
  route.cost = search.way.cost;
  for (const Requirement& rule : options.rules)
    if (rule.on) route.kept.push_back(kept_text(rule));
  route.figures.length_found = search.way.length_found;
  route.length = path_length(route.waypoints);
  find_least(query, options.least_within, route);
  route.figures.lines = prover.lines();
  route.figures.checks = prover.checks();
  route.figures.seconds = watch.seconds();
  return route;
}

Verdict<Route> find_route(const Cell& cell, std::string_view arm, const Posture& start,
                          const std::vector<Posture>& goals, const RouteOptions& options) {
  return find_route(CellQuery(cell, arm), start, goals, options);
}

}  // namespace er
