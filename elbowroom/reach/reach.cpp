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
#include "elbowroom/reach/closed_form.hpp"
#include "elbowroom/reach/diagnosis.hpp"
#include "elbowroom/reach/numeric.hpp"
#include "elbowroom/reach/seven_centres.hpp"

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

// What joints outside of the tool's chain, and held ones, are taken to be.
Posture within_ranges(const Arm& arm, const Posture& q) {
  return q.cwiseMax(arm.limits().lower).cwiseMin(arm.limits().upper);
}

struct Found {
  Posture posture;
  std::string branch = {};
  std::string free_joint = {};
  bool is_free = false;
};

// Brings every turning joint into its range by full turns, if it can be; the lowest such value.
bool bring_into_range(const Arm& arm, Posture& q) {
  for (int k = 0; k < arm.dof(); ++k) {
    const double lower = arm.limits().lower[k] - 1e-9;
    const double upper = arm.limits().upper[k] + 1e-9;
    if (arm.moving_joint(k).kind == JointKind::revolute && std::isfinite(lower))
      q[k] -= kFullTurn * std::floor((q[k] - lower) / kFullTurn);
    if (q[k] < lower || q[k] > upper) return false;
    q[k] = std::clamp(q[k], arm.limits().lower[k], arm.limits().upper[k]);
  }
  return true;
}

// Gathers the distinct postures of a target, by what the arm allows.
class PostureSearch {
 public:
  PostureSearch(const CellQuery& query, const Target& target, const ReachOptions& options,
                const Posture& from, Reach& out)
      : query_(query),
        arm_(query.arm()),
        target_(target),
        options_(options),
        from_(from),
        out_(out),
        parts_(query) {}

  void by_form() {
    const auto chain = screw_chain(arm_, arm_.tool(target_.tool()));
    if (!chain) return;
    if (const auto form = ClosedForm::of(*chain)) return by_closed_form(*form);
    if (const auto form = SevenCentres::of(*chain)) by_elbow_angle(*form);
  }

  void by_starts() {
    out_.starts = options_.starts;
    SpreadSequence starts(arm_.search_lower(), arm_.search_upper());
    for (int i = 0; i < options_.starts; ++i) {
      const Posture start = i == 0 ? within_ranges(arm_, from_) : starts.next();
      const NumericSolve solve = solve_from(arm_, target_, start);
      if (!solve.met) continue;
      ++out_.converged;
      add({solve.posture});
    }
  }

  [[nodiscard]] bool any_is_free() const {
    return std::any_of(found_.begin(), found_.end(), [](const Found& one) { return one.is_free; });
  }
  [[nodiscard]] const std::vector<Found>& found() const { return found_; }
  /// Those of a closed form that leave the ranges.
  [[nodiscard]] const std::vector<Posture>& beyond() const { return beyond_; }

 private:
  void add(Found one) {
    for (const Found& other : found_)
      if (is_same(arm_, one.posture, other.posture)) return;
    one.is_free = query_.is_free(one.posture, options_.clearance, parts_);
    found_.push_back(std::move(one));
  }

  // The joints of the chain as they were solved, all others as they are.
  [[nodiscard]] Posture posture_of(const ScrewChain& chain, const ClosedSolution& solution) const {
    Posture q = within_ranges(arm_, from_);
    for (std::size_t i = 0; i < chain.screws.size(); ++i)
      q[chain.screws[i].posture_index] = solution.values[i];
    return q;
  }

  void by_closed_form(const ClosedForm& form) {
    out_.form = form.name();
    out_.branch_legend = "branch: the shoulder's side, the elbow, the sign of the wrist's bend";
    ClosedSolutions solutions;
    form.solve(target_.pose(), solutions);
    out_.complete = solutions.complete;
    for (const ClosedSolution& solution : solutions) {
      Found one{posture_of(form.chain(), solution), form.branch(solution)};
      if (solution.free_joint >= 0) {
        const int entry = form.chain()[solution.free_joint].posture_index;
        one.free_joint = arm_.moving_joint(entry).name;
        one.posture = with_free_joint(one.posture, entry);
      }
      const Posture wanted = one.posture;
      if (bring_into_range(arm_, one.posture)) {
        add(std::move(one));
        continue;
      }
      // Of a family another member may be within the ranges.
      if (solution.free_joint >= 0) out_.complete = false;
      beyond_.push_back(wanted);
    }
    out_.beyond_limits = static_cast<int>(beyond_.size());
  }

  // Of a family of postures that in which the free joint stays where the arm is now, if there is
  // one.
  [[nodiscard]] Posture with_free_joint(const Posture& one, int entry) const {
    const double value =
        std::clamp(from_[entry], arm_.search_lower()[entry], arm_.search_upper()[entry]);
    const Arm held = arm_.holding({{arm_.moving_joint(entry).name, value}});
    Posture start = one;
    bring_into_range(arm_, start);
    start[entry] = value;
    const NumericSolve solve = solve_from(held, target_, within_ranges(arm_, start));
    return solve.met ? solve.posture : one;
  }

  // Seven joints: every branch, and in each stretch of elbow angles that keeps the ranges the one
  // with the least cost of those looked at.
  void by_elbow_angle(const SevenCentres& form) {
    out_.form = "shoulder and wrist of seven joints";
    std::array<double, kMostClosedJoints> lower{};
    std::array<double, kMostClosedJoints> upper{};
    for (std::size_t i = 0; i < lower.size(); ++i) {
      lower[i] = arm_.search_lower()[form.chain().screws[i].posture_index];
      upper[i] = arm_.search_upper()[form.chain().screws[i].posture_index];
    }
    const auto stretches = form.feasible(target_.pose(), lower.data(), upper.data());
    std::vector<std::optional<Found>> best(stretches.size());
    std::vector<double> least(stretches.size(), std::numeric_limits<double>::infinity());
    const auto look = [&](double angle) {
      ClosedSolutions solutions;
      form.solve(target_.pose(), angle, solutions);
      for (std::size_t i = 0; i < stretches.size(); ++i) {
        const ElbowInterval& stretch = stretches[i];
        if (angle <= stretch.from || angle >= stretch.to || stretch.branch >= solutions.count)
          continue;
        Found one{posture_of(form.chain(), solutions.all[static_cast<std::size_t>(stretch.branch)]),
                  fmt::format("branch {}, elbow {:.0f} deg", stretch.branch + 1, to_deg(angle))};
        if (!bring_into_range(arm_, one.posture)) continue;
        // One in collision stands for its stretch only when none is free.
        one.is_free = query_.is_free(one.posture, options_.clearance, parts_);
        if (best[i] && best[i]->is_free && !one.is_free) continue;
        const double cost = rate(query_, target_, one.posture, from_, parts_).cost();
        const bool first_free = one.is_free && !(best[i] && best[i]->is_free);
        if (!first_free && cost >= least[i]) continue;
        least[i] = cost;
        best[i] = std::move(one);
      }
    };
    for (int i = 0; i < kElbowAngles; ++i)
      look(-std::numbers::pi + kFullTurn * (i + 0.5) / kElbowAngles);
    for (const ElbowInterval& stretch : stretches)  // one may lie between two of these
      look(0.5 * (stretch.from + stretch.to));
    for (std::optional<Found>& one : best)
      if (one) add(std::move(*one));
  }

  static constexpr int kElbowAngles = 48;  // looked at over a full turn

  const CellQuery& query_;
  const Arm& arm_;
  const Target& target_;
  const ReachOptions& options_;
  const Posture& from_;
  Reach& out_;
  PartPoses parts_;
  std::vector<Found> found_;
  std::vector<Posture> beyond_;
};

}  // namespace

Verdict<Reach> reach(const CellQuery& query, const Target& target, const ReachOptions& options) {
  const auto began = std::chrono::steady_clock::now();
  const Arm& arm = query.arm();
  require_ranges(arm);
  if (options.starts < 1) throw InputError("reach needs at least one start");
  const Posture from = travel_start(arm, options);

  Reach out;
  PostureSearch search(query, target, options, from, out);
  if (options.use_closed_form) search.by_form();
  // Where the tolerances leave room, a posture beside the exact ones may do.
  const bool exact = target.position_tolerance() <= 1e-5 && target.angle_tolerance() <= 1e-4;
  if (!search.any_is_free() && !(out.complete && exact)) {
    out.complete = false;
    search.by_starts();
  }
  PartPoses parts(query);
  std::vector<ReachSolution> colliding;
  for (const Found& one : search.found()) {
    for_each_full_turn(arm, one.posture, from, [&](const Posture& posture) {
      ReachSolution rated = rate(query, target, posture, from, parts);
      rated.branch = one.branch;
      rated.free_joint = one.free_joint;
      (one.is_free ? out.solutions : colliding).push_back(std::move(rated));
    });
    if (!one.is_free) ++out.colliding;
  }
  const auto by_cost = [](const ReachSolution& a, const ReachSolution& b) {
    return a.cost() < b.cost();
  };
  std::stable_sort(out.solutions.begin(), out.solutions.end(), by_cost);
  if (out.solutions.empty()) return explain_no(query, target, options, colliding, search.beyond());
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
  const bool branches = std::any_of(solutions.begin(), solutions.end(),
                                    [](const ReachSolution& s) { return !s.branch.empty(); });
  if (branches) headings.emplace_back("<branch");
  for (const char* h : {"cost", "travel", "room", "limits", "clear mm", "<nearest pair"})
    headings.emplace_back(h);
  Table table(headings);
  for (std::size_t i = 0; i < std::min(most, solutions.size()); ++i) {
    const ReachSolution& s = solutions[i];
    std::vector<std::string> row{std::to_string(i + 1)};
    for (std::string& cell : joint_cells(arm, s.posture)) row.push_back(std::move(cell));
    if (branches) row.push_back(s.branch);
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
  if (branches && !branch_legend.empty()) out += "  " + branch_legend + "\n";
  if (std::any_of(solutions.begin(), solutions.end(),
                  [](const ReachSolution& one) { return !one.free_joint.empty(); }))
    out += fmt::format(
        "  singular: {} may be turned freely, other joints giving way; the posture nearest to the "
        "start is listed\n",
        solutions.front().free_joint);
  if (starts > 0) {
    out += fmt::format("  {} of {} starts met the target", converged, starts);
  } else if (complete) {
    out += fmt::format("  {}: all postures there are; {} more beyond the joint ranges", form,
                       beyond_limits);
  } else {
    out += fmt::format("  {}: not sure to be all; {} more beyond the joint ranges", form,
                       beyond_limits);
  }
  out += fmt::format("; {} further distinct posture{} too near something; {:.1f} ms\n", colliding,
                     colliding == 1 ? " was" : "s were", seconds * 1e3);
  double position = 0.0;
  double angle = 0.0;
  for (const ReachSolution& s : solutions) {
    position = std::max(position, s.position_error);
    angle = std::max(angle, s.angle_error);
  }
  return out + fmt::format(
                   "  by forward kinematics no posture is further off than {:.2g} um and "
                   "{:.2g} mdeg\n",
                   position * 1e6, to_deg(angle) * 1e3);
}

}  // namespace er
