#include "elbowroom/route/route.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <memory>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/free_postures.hpp"
#include "elbowroom/model/posture_text.hpp"
#include "elbowroom/reach/reach.hpp"
#include "elbowroom/route/line_prover.hpp"
#include "elbowroom/route/nearest_free.hpp"
#include "elbowroom/route/no_route.hpp"
#include "elbowroom/route/tighten.hpp"
#include "elbowroom/route/two_trees.hpp"

namespace er {
namespace {

constexpr std::uint64_t kNextStream = 0x9e3779b97f4a7c15ULL;  // keeps the seeds of searches apart

constexpr int kRemedyTries = 2000;

void check_question(const CellQuery& query, const Posture& start, const std::vector<Posture>& goals,
                    const RouteOptions& options) {
  const Arm& arm = query.arm();
  require_ranges(arm);
  arm.check_posture(start, "the start of the route");
  if (goals.empty()) throw InputError("a route needs at least one goal");
  for (const Posture& goal : goals) arm.check_posture(goal, "a goal of the route");
  if (!(options.clearance >= 0.0) || !std::isfinite(options.clearance))
    throw InputError(
        fmt::format("the clearance must be zero or more, found {} mm", to_mm(options.clearance)));
}

// Those that can be stood at, by number.
std::vector<std::size_t> free_goals(const CellQuery& query, const std::vector<Posture>& goals,
                                    double clearance) {
  const auto free = std::make_unique<bool[]>(goals.size());
  PostureChecker(query).check(goals, clearance, {free.get(), goals.size()});
  std::vector<std::size_t> open;
  for (std::size_t g = 0; g < goals.size(); ++g)
    if (free[g] && query.arm().limit_breach(goals[g]).empty()) open.push_back(g);
  return open;
}

Reason blocked_ends(const CellQuery& query, const std::vector<Posture>& goals, double clearance) {
  const std::string fault = query.fault_of(goals.front(), clearance);
  if (goals.size() == 1) return {Cause::goal_blocked, "no: at the goal: " + fault};
  return {
      Cause::goal_blocked,
      fmt::format("no: none of the {} goals can be stood at; the first: {}", goals.size(), fault)};
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
  RouteOptions once = options;
  once.tries = std::min(once.tries, kRemedyTries);
  once.searches = 1;
  once.shortcuts = 0;
  once.least_within = 0.0;
  once.find_remedies = false;
  const std::string changed = changed_joints(query.arm(), blocked, *free);
  if (has_route(*free, once))
    reason.remedies.push_back({fmt::format("{} with {}, the rest as asked", where, changed)});
  else
    reason.details.push_back(fmt::format("free nearby, but without a route: {}", changed));
  return reason;
}

}  // namespace

double path_length(const std::vector<Posture>& waypoints) {
  double length = 0.0;
  for (std::size_t i = 0; i + 1 < waypoints.size(); ++i)
    length += (waypoints[i + 1] - waypoints[i]).norm();
  return length;
}

Verdict<Route> find_route(const CellQuery& query, const Posture& start,
                          const std::vector<Posture>& goals, const RouteOptions& options,
                          const Supervision& supervision) {
  const auto began = std::chrono::steady_clock::now();
  check_question(query, start, goals, options);
  if (const std::string fault = query.fault_of(start, options.clearance); !fault.empty())
    return with_free_posture({Cause::start_blocked, "no: at the start: " + fault}, query, start,
                             options, "start", [&](const Posture& free, const RouteOptions& once) {
                               return bool(find_route(query, free, goals, once, supervision));
                             });

  std::vector<std::size_t> open = free_goals(query, goals, options.clearance);
  if (open.empty())
    return with_free_posture(blocked_ends(query, goals, options.clearance), query, goals.front(),
                             options, "end", [&](const Posture& free, const RouteOptions& once) {
                               return bool(find_route(query, start, {free}, once, supervision));
                             });
  std::stable_sort(open.begin(), open.end(), [&](std::size_t a, std::size_t b) {
    return (goals[a] - start).squaredNorm() < (goals[b] - start).squaredNorm();
  });

  LineProver prover(query, options.clearance);
  Route route;
  route.clearance = options.clearance;
  for (const std::size_t g : open) {
    if (!prover.is_free(start, goals[g])) continue;
    route.waypoints = {start, goals[g]};
    route.goal = g;
    break;
  }
  if (route.waypoints.empty()) {
    TwoTreesQuestion question{start, {}, options.seed, options.tries};
    for (const std::size_t g : open) question.goals.push_back(goals[g]);
    for (int i = 0; i < std::max(1, options.searches); ++i) {
      question.seed = options.seed + static_cast<std::uint64_t>(i) * kNextStream;
      const TwoTreesResult found = grow_two_trees(question, prover, supervision);
      route.figures.tries += found.tries;
      route.figures.nodes += found.nodes;
      if (found.waypoints.empty()) break;  // the whole budget is spent: more of it would not help
      auto tight =
          tighten(found.waypoints, {options.shortcuts, options.worthwhile, question.seed}, prover);
      if (!route.waypoints.empty() && path_length(tight) >= path_length(route.waypoints)) continue;
      route.goal = open[found.goal];
      route.figures.length_found = path_length(found.waypoints);
      route.waypoints = std::move(tight);
    }
    if (route.waypoints.empty() && supervision.stop.stop_requested())
      return Reason{Cause::no_route,
                    fmt::format("no: told to stop after {} tries, before a route was found",
                                route.figures.tries)};
    if (route.waypoints.empty()) {
      Reason reason{
          Cause::no_route,
          fmt::format("no: no route found in {} tries ({} postures joined to the two "
                      "ends); lines were blocked most by {}",
                      route.figures.tries, route.figures.nodes, prover.what_blocked_most()),
          {{"tries", static_cast<double>(route.figures.tries), ""}}};
      if (options.find_remedies)
        explain_no_route(reason, query, {start, question.goals, prover.bodies_that_blocked()},
                         options, supervision);
      return reason;
    }
  } else {
    route.figures.length_found = path_length(route.waypoints);
  }
  route.length = path_length(route.waypoints);
  if (options.least_within > 0.0)
    route.least = least_clearance(query, route.waypoints, options.least_within);
  else
    route.least.lower = options.clearance;
  route.least.lower = std::max(route.least.lower, options.clearance);  // the sweeps proved that
  route.figures.lines = prover.lines();
  route.figures.checks = prover.checks();
  route.figures.seconds =
      std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
  return route;
}

Verdict<Route> find_route(const Cell& cell, std::string_view arm, const Posture& start,
                          const std::vector<Posture>& goals, const RouteOptions& options) {
  return find_route(CellQuery(cell, arm), start, goals, options);
}

std::string Route::summary(const CellQuery& query) const {
  // Whether the least clearance was looked for at all.
  const bool has_least = least.nearest.first >= 0 || std::isinf(least.lower);
  return fmt::format(
      "yes: {} straight joint move{}, {:.0f} deg of joint travel, proved to keep {}{}",
      waypoints.size() - 1, waypoints.size() == 2 ? "" : "s", to_deg(length),
      text_length(clearance), has_least ? "; least: " + query.describe(least.nearest) : "");
}

std::string Route::report(const CellQuery& query) const {
  const Arm& arm = query.arm();
  std::vector<std::string> headings{"at"};
  for (std::string& heading : joint_headings(arm)) headings.push_back(std::move(heading));
  headings.emplace_back("clear mm");
  headings.emplace_back("<nearest pair");
  Table table(headings);
  double travelled = 0.0;
  for (std::size_t i = 0; i < waypoints.size(); ++i) {
    if (i > 0) travelled += (waypoints[i] - waypoints[i - 1]).norm();
    std::vector<std::string> row{
        fmt::format("{:.0f} %", length > 0.0 ? 100.0 * travelled / length : 0.0)};
    for (std::string& cell : joint_cells(arm, waypoints[i])) row.push_back(std::move(cell));
    const Nearest nearest = query.nearest(waypoints[i]);
    row.push_back(nearest.first < 0 ? "-" : fmt::format("{:.1f}", to_mm(nearest.distance)));
    row.push_back(nearest.first < 0
                      ? "nothing to meet"
                      : query.name(nearest.first) + ", " + query.name(nearest.second));
    table.row(std::move(row));
  }
  return table.text() +
         fmt::format(
             "  {} line{} put to the proof, {} look{} at pairs or intervals, {} tr{}; "
             "{:.0f} deg before tightening; {:.1f} ms\n",
             figures.lines, figures.lines == 1 ? "" : "s", figures.checks,
             figures.checks == 1 ? "" : "s", figures.tries, figures.tries == 1 ? "y" : "ies",
             to_deg(figures.length_found), figures.seconds * 1e3);
}

}  // namespace er
