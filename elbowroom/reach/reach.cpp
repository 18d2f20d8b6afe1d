#include "elbowroom/reach/reach.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <functional>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/posture_text.hpp"
#include "elbowroom/reach/diagnosis.hpp"
#include "elbowroom/reach/numeric.hpp"

namespace er {
namespace {

constexpr double kFullTurn = 2.0 * std::numbers::pi;
constexpr double kSamePosture = 1e-3;     // rad or m; nearer than this in every joint is the same
constexpr double kRoomyClearance = 0.05;  // m; more than this costs nothing

bool is_same(const Arm& arm, const Posture& a, const Posture& b) {
  for (int k = 0; k < arm.dof(); ++k) {
    double difference = a[k] - b[k];
    if (arm.moving_joint(k).kind == JointKind::revolute)
      difference = std::remainder(difference, kFullTurn);
    if (std::abs(difference) > kSamePosture) return false;
  }
  return true;
}

// Every way to add full turns to revolute joints and stay within the ranges. A continuous joint has
// no end of them: it takes the turn nearest to where travel is counted from.
void for_each_full_turn(const Arm& arm, const Posture& posture, const Posture& from,
                        const std::function<void(const Posture&)>& use) {
  const Limits& limits = arm.limits();
  const std::function<void(int, Posture)> choose = [&](int k, Posture q) {
    if (k == arm.dof()) return use(q);
    if (arm.moving_joint(k).kind != JointKind::revolute) return choose(k + 1, q);
    if (!std::isfinite(limits.upper[k] - limits.lower[k])) {
      q[k] = from[k] + std::remainder(q[k] - from[k], kFullTurn);
      return choose(k + 1, q);
    }
    const double lowest =
        q[k] - kFullTurn * std::floor((q[k] - limits.lower[k] + 1e-12) / kFullTurn);
    for (double value = lowest; value <= limits.upper[k] + 1e-12; value += kFullTurn) {
      q[k] = value;
      choose(k + 1, q);
    }
  };
  choose(0, posture);
}

Posture travel_start(const Arm& arm, const ReachOptions& options) {
  if (options.from.size() > 0) {
    arm.check_posture(options.from, "the posture that travel is counted from");
    return options.from;
  }
  if (const Posture* home = arm.find_stance("home")) return *home;
  return 0.5 * (arm.search_lower() + arm.search_upper());
}

ReachSolution rate(const CellQuery& query, const Target& target, const Posture& posture,
                   const Posture& from, PartPoses& parts) {
  const Arm& arm = query.arm();
  ReachSolution s;
  s.posture = posture;
  const TargetError error =
      error_between(target.pose(), tool_pose(arm, arm.tool(target.tool()), posture));
  s.position_error = error.position;
  s.angle_error = error.angle;
  s.nearest = query.nearest(posture, parts);
  s.room_cost = std::clamp(1.0 - s.nearest.distance / kRoomyClearance, 0.0, 1.0);
  for (int k = 0; k < arm.dof(); ++k) {
    const double turns = arm.moving_joint(k).kind == JointKind::revolute ? std::numbers::pi : 1.0;
    s.travel_cost = std::max(s.travel_cost, std::abs(posture[k] - from[k]) / turns);
    const double half = 0.5 * (arm.limits().upper[k] - arm.limits().lower[k]);
    const double middle = 0.5 * (arm.limits().upper[k] + arm.limits().lower[k]);
    if (half > 0.0 && std::isfinite(half))
      s.limit_cost = std::max(s.limit_cost, std::abs(posture[k] - middle) / half);
  }
  return s;
}

}  // namespace

Verdict<Reach> reach(const CellQuery& query, const Target& target, const ReachOptions& options) {
  const auto began = std::chrono::steady_clock::now();
  const Arm& arm = query.arm();
  require_ranges(arm);
  if (options.starts < 1) throw InputError("reach needs at least one start");
  const Posture from = travel_start(arm, options);

  Reach out;
  out.starts = options.starts;
  std::vector<Posture> distinct;
  SpreadSequence starts(arm.search_lower(), arm.search_upper());
  for (int i = 0; i < options.starts; ++i) {
    const Posture start =
        i == 0 ? Posture(from.cwiseMax(arm.limits().lower).cwiseMin(arm.limits().upper))
               : starts.next();
    const NumericSolve solve = solve_from(arm, target, start);
    if (!solve.met) continue;
    ++out.converged;
    const bool known = std::any_of(distinct.begin(), distinct.end(), [&](const Posture& other) {
      return is_same(arm, solve.posture, other);
    });
    if (!known) distinct.push_back(solve.posture);
  }
  PartPoses parts(query);
  std::vector<ReachSolution> colliding;
  for (const Posture& one : distinct) {
    const bool free = query.is_free(one, options.clearance, parts);
    for_each_full_turn(arm, one, from, [&](const Posture& posture) {
      (free ? out.solutions : colliding).push_back(rate(query, target, posture, from, parts));
    });
    if (!free) ++out.colliding;
  }
  const auto by_cost = [](const ReachSolution& a, const ReachSolution& b) {
    return a.cost() < b.cost();
  };
  std::stable_sort(out.solutions.begin(), out.solutions.end(), by_cost);
  if (out.solutions.empty()) return explain_no(query, target, options, colliding);
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
  return out;
}

Verdict<Reach> reach(const Cell& cell, std::string_view arm, const Target& target,
                     const ReachOptions& options) {
  return reach(CellQuery(cell, arm), target, options);
}

std::vector<Posture> Reach::postures() const {
  std::vector<Posture> all;
  for (const ReachSolution& s : solutions) all.push_back(s.posture);
  return all;
}

std::string Reach::summary(const CellQuery& query) const {
  return fmt::format("yes: {} posture{}; the best keeps {}", solutions.size(),
                     solutions.size() == 1 ? " reaches it" : "s reach it",
                     query.describe(solutions.front().nearest));
}

std::string Reach::report(const CellQuery& query, std::size_t most) const {
  const Arm& arm = query.arm();
  std::vector<std::string> headings{"#"};
  for (std::string& heading : joint_headings(arm)) headings.push_back(std::move(heading));
  for (const char* h :
       {"error um", "mdeg", "cost", "travel", "room", "limits", "clear mm", "<nearest pair"})
    headings.emplace_back(h);
  Table table(headings);
  for (std::size_t i = 0; i < std::min(most, solutions.size()); ++i) {
    const ReachSolution& s = solutions[i];
    std::vector<std::string> row{std::to_string(i + 1)};
    for (std::string& cell : joint_cells(arm, s.posture)) row.push_back(std::move(cell));
    row.push_back(fmt::format("{:.2f}", s.position_error * 1e6));
    row.push_back(fmt::format("{:.2f}", to_deg(s.angle_error) * 1e3));
    for (const double cost : {s.cost(), s.travel_cost, s.room_cost, s.limit_cost})
      row.push_back(fmt::format("{:.2f}", cost));
    row.push_back(s.nearest.first < 0 ? "-" : fmt::format("{:.1f}", to_mm(s.nearest.distance)));
    row.push_back(s.nearest.first < 0
                      ? "nothing to meet"
                      : query.name(s.nearest.first) + ", " + query.name(s.nearest.second));
    table.row(std::move(row));
  }
  std::string out = table.text();
  if (solutions.size() > most)
    out += fmt::format("  ... and {} more (--all lists them)\n", solutions.size() - most);
  out += fmt::format(
      "  {} of {} starts met the target; {} further distinct posture{} too near something; {:.1f} "
      "ms\n",
      converged, starts, colliding, colliding == 1 ? " was" : "s were", seconds * 1e3);
  return out;
}

}  // namespace er
