#include "elbowroom/reach/posture_search.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <optional>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/symmetric.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/reach/full_turns.hpp"
#include "elbowroom/reach/line_of_sight.hpp"
#include "elbowroom/reach/numeric.hpp"
#include "elbowroom/reach/side_by_side.hpp"

namespace er {
namespace {

constexpr double kSamePosture = 1e-3;  // rad or m; nearer than this in every joint is the same
constexpr double kOtherKind = 0.6;     // rad or m: of a family, postures so far apart both count
constexpr int kMostOfFamily = 16;
constexpr int kStartsBeforeNo = 10;  // times as many
constexpr int kElbowAngles = 48;     // looked at over a full turn
constexpr int kHeldValues = 48;      // of a joint that is held, over its range
constexpr int kFreeTurns = 36;       // the same of a tool that may turn about its axis

// What joints outside of the tool's chain, and held ones, are taken to be.
Posture within_ranges(const TargetOnArm& target, const Posture& q) {
  return q.cwiseMax(target.lower()).cwiseMin(target.upper());
}

// Brings every turning joint into its range by full turns, if it can be; the lowest such value.
bool bring_into_range(const TargetOnArm& target, Posture& q) {
  for (int k = 0; k < target.arm().dof(); ++k) {
    const double lower = target.lower()[k] - 1e-9;
    const double upper = target.upper()[k] + 1e-9;
    if (target.arm().moving_joint(k).kind == JointKind::revolute && std::isfinite(lower))
      q[k] -= kTurn * std::floor((q[k] - lower) / kTurn);
    if (q[k] < lower || q[k] > upper) return false;
    q[k] = std::clamp(q[k], target.lower()[k], target.upper()[k]);
  }
  return true;
}

double furthest_joint(const Arm& arm, const Posture& a, const Posture& b) {
  double most = 0.0;
  for (int k = 0; k < arm.dof(); ++k) {
    double difference = a[k] - b[k];
    if (arm.moving_joint(k).kind == JointKind::revolute)
      difference = std::remainder(difference, kTurn);
    most = std::max(most, std::abs(difference));
  }
  return most;
}

// Unit vectors along which a posture can move while the target stays met, to first order.
std::vector<Posture> free_directions(const TargetOnArm& target, const Posture& posture) {
  NormalEquations equations;
  TargetOnArm::Error error;
  target.equations(posture, 0.3, equations, error);
  const int n = target.arm().dof();
  Eigen::MatrixXd a(n, n);
  for (int i = 0; i < n; ++i)
    for (int j = 0; j <= i; ++j)
      a(i, j) = a(j, i) = equations.a[static_cast<std::size_t>(i * n + j)];
  const SymmetricEigen eigen = symmetric_eigen(a);
  std::vector<Posture> out;
  for (int i = 0; i < n && eigen.values[i] < 1e-8 * std::max(1.0, eigen.values[n - 1]); ++i) {
    const Posture direction = eigen.vectors.col(i);
    // A joint that is held has no say in anything.
    bool moves = false;
    for (int k = 0; k < n; ++k)
      moves |= std::abs(direction[k]) > 1e-6 && target.lower()[k] < target.upper()[k];
    if (moves) out.push_back(direction);
  }
  return out;
}

// The requirement of a place that a closed form can serve: one that is full but perhaps for the
// turn.
int place_for_a_form(const TargetOnArm& target) {
  for (int i = 0; i < target.size(); ++i) {
    const AtPlace* place = std::get_if<AtPlace>(&target[i].requirement->holds);
    if (place == nullptr) continue;
    AtPlace turned = *place;
    turned.turn = {};
    if (turned.is_full()) return i;
  }
  return -1;
}

std::string branch_of(const ClosedForm& form, const Posture& posture) {
  ClosedSolution solution;
  for (std::size_t i = 0; i < static_cast<std::size_t>(form.joints()); ++i)
    solution.values[i] = posture[form.chain().screws[i].posture_index];
  return form.branch(solution);
}

}  // namespace

bool is_same_posture(const Arm& arm, const Posture& a, const Posture& b) {
  return furthest_joint(arm, a, b) <= kSamePosture;
}

PostureSearch::PostureSearch(const CellQuery& query, const TargetOnArm& target,
                             const Ranking& ranking, const ReachOptions& options, Reach& out)
    : query_(query),
      target_(target),
      arm_(query.arm()),
      ranking_(ranking),
      options_(options),
      clearance_(std::max(options.clearance, target.target().clearance())),
      out_(out),
      parts_(query) {}

void PostureSearch::by_form() {
  const int at = place_for_a_form(target_);
  if (at < 0) return;
  const AtPlace& place = *std::get_if<AtPlace>(&target_[at].requirement->holds);
  const Tool frame{.name = target_[at].requirement->of,
                   .tip = target_[at].frame,
                   .link_index = target_[at].link};
  const auto chain = screw_chain(arm_, frame);
  if (!chain) return;
  const auto form = ClosedForm::of(*chain);
  if (place.is_full()) {
    if (form) return by_closed_form(*form, place.frame_pose());
    if (const auto seven = SevenCentres::of(*chain))
      return by_elbow_angle(*seven, place.frame_pose());
    if (const auto held = OneHeld::of(*chain)) by_held_joint(*held, place.frame_pose());
  } else if (const auto five = ClosedForm::of_axis(*chain, place.axis)) {
    AtPlace turned = place;  // any way: the sixth joint turns it as it is
    turned.turn = Band::exactly(0.0);
    by_closed_form(*five, turned.frame_pose());
  } else if (form) {
    by_free_turn(*form, place);
  }
}

void PostureSearch::by_starts() {
  out_.starts = options_.starts;
  std::vector<Found> family;
  const auto take = [&](const Posture& posture) {
    ++out_.converged;
    if (free_directions(target_, posture).empty()) {
      add({posture});
    } else {
      family.push_back({posture});
    }
  };
  const NumericSolve near = solve_from(target_, within_ranges(target_, ranking_.from()));
  if (near.met) take(near.posture);
  for (const Posture& posture : postures_from_starts(target_, options_.starts - 1)) take(posture);
  if (out_.converged == 0 && options_.find_remedies) {
    out_.starts = kStartsBeforeNo * options_.starts;
    if (const auto rare = posture_from_starts(target_, out_.starts)) take(*rare);
  }
  keep_best_of(std::move(family), nullptr);
}

void PostureSearch::doubt_that_none() {
  const auto posture = posture_from_starts(target_, options_.starts);
  if (!posture) return;
  out_.complete = false;
  add({*posture});
}

bool PostureSearch::any_is_free() const {
  return std::any_of(found_.begin(), found_.end(), [](const Found& one) { return one.is_free; });
}

void PostureSearch::judge(Found& one) {
  one.is_free = query_.is_free(one.posture, clearance_, parts_);
  if (!one.is_free) return;
  one.view_blocked_by = view_blocked_by(query_, target_, one.posture, parts_);
  one.is_free = one.view_blocked_by.empty();
}

// What is too near something, or blocked from view, costs more than all that is not: the more, the
// deeper.
double PostureSearch::search_cost(const Found& judged) {
  constexpr double kNotFree = 1e6;  // and as much again for a metre
  const ReachSolution rated = ranking_.rate(judged.posture, judged.branch, parts_);
  if (judged.is_free) return rated.cost();
  return rated.cost() + kNotFree * (1.0 + std::max(0.0, clearance_ - rated.nearest.distance));
}

bool PostureSearch::add(Found one) {
  for (const Found& other : found_)
    if (is_same_posture(arm_, one.posture, other.posture)) return false;
  judge(one);
  found_.push_back(std::move(one));
  return true;
}

// The joints of the chain as they were solved, all others as they are.
Posture PostureSearch::posture_of(const ScrewChain& chain, const ClosedSolution& solution) const {
  Posture q = within_ranges(target_, ranking_.from());
  for (std::size_t i = 0; i < chain.screws.size(); ++i)
    if (chain.screws[i].posture_index >= 0)  // else it is not the arm's own
      q[chain.screws[i].posture_index] = solution.values[i];
  return q;
}

void PostureSearch::by_closed_form(const ClosedForm& form, const Pose& tip) {
  out_.form = form.name();
  out_.branch_legend = form.branch_legend();
  ClosedSolutions solutions;
  form.solve(tip, solutions);
  out_.complete = solutions.complete;
  for (const ClosedSolution& solution : solutions) {
    Found one{posture_of(form.chain(), solution), form.branch(solution)};
    if (solution.free_joint >= 0) {
      const int entry = form.chain()[solution.free_joint].posture_index;
      one.free_joint = arm_.moving_joint(entry).name;
      one.posture = with_free_joint(one.posture, entry);
    }
    const Posture wanted = one.posture;
    if (bring_into_range(target_, one.posture)) {
      // What else the target asks for, the form knows nothing of.
      const bool all_is_known = target_.size() == 1 && form.joints() == form.chain().size();
      if (all_is_known || target_.is_met(one.posture)) add(std::move(one));
      continue;
    }
    // Of a family another member may be within the ranges.
    if (solution.free_joint >= 0) out_.complete = false;
    beyond_.push_back(wanted);
  }
  out_.beyond_limits = static_cast<int>(beyond_.size());
}

// Of a family of postures that in which the free joint stays where the arm is now, if there is one.
Posture PostureSearch::with_free_joint(const Posture& one, int entry) const {
  const double value =
      std::clamp(ranking_.from()[entry], arm_.search_lower()[entry], arm_.search_upper()[entry]);
  const Arm held = arm_.holding({{arm_.moving_joint(entry).name, value}});
  Posture start = one;
  bring_into_range(target_, start);
  start[entry] = value;
  const TargetOnArm on_held(held, target_.target());
  const NumericSolve solve = solve_from(on_held, within_ranges(on_held, start));
  return solve.met ? solve.posture : one;
}

// Seven joints: every branch, and in each stretch of elbow angles that keeps the ranges the one
// with the least cost of those looked at.
void PostureSearch::by_elbow_angle(const SevenCentres& form, const Pose& tip) {
  out_.form = "shoulder and wrist of seven joints";
  out_.branch_legend =
      "branch: the signs of the shoulder's, the elbow's and the wrist's bend; where the elbow is";
  std::array<double, kMostClosedJoints> lower{};
  std::array<double, kMostClosedJoints> upper{};
  for (std::size_t i = 0; i < lower.size(); ++i) {
    const int entry = form.chain().screws[i].posture_index;
    lower[i] = std::max(arm_.search_lower()[entry], target_.lower()[entry]);
    upper[i] = std::min(arm_.search_upper()[entry], target_.upper()[entry]);
  }
  const auto stretches = form.feasible(tip, lower.data(), upper.data());
  std::vector<std::optional<Found>> best(stretches.size());
  std::vector<double> least(stretches.size(), std::numeric_limits<double>::infinity());
  SevenSweep sweep;
  const auto look = [&](double angle, int at) {
    for (std::size_t i = 0; i < stretches.size(); ++i) {
      const ElbowInterval& stretch = stretches[i];
      if (angle <= stretch.from || angle >= stretch.to) continue;
      ClosedSolution solution;
      if (!sweep.posture(at, stretch.branch, solution)) continue;
      Found one{posture_of(form.chain(), solution), {}};
      one.branch = fmt::format("{}, elbow {:.0f} deg", form.branch(solution), to_deg(angle));
      if (!bring_into_range(target_, one.posture)) continue;
      if (!target_.is_met(one.posture)) {
        if (target_.size() > 1) continue;
        // Axes that miss each other by less than the form can see.
        const NumericSolve solve = solve_from(target_, one.posture, {.iterations = 5});
        if (!solve.met) continue;
        one.posture = solve.posture;
      }
      one.posture = best_turned(one.posture);
      // One in collision stands for its stretch only when none is free.
      judge(one);
      if (best[i] && best[i]->is_free && !one.is_free) continue;
      const double cost = ranking_.rate(one.posture, one.branch, parts_).cost();
      const bool first_free = one.is_free && !(best[i] && best[i]->is_free);
      if (!first_free && cost >= least[i]) continue;
      least[i] = cost;
      best[i] = std::move(one);
    }
  };
  std::vector<double> angles;
  for (int i = 0; i < kElbowAngles; ++i)
    angles.push_back(-std::numbers::pi + kTurn * (i + 0.5) / kElbowAngles);
  for (const ElbowInterval& stretch : stretches)  // one may lie between two of these
    angles.push_back(0.5 * (stretch.from + stretch.to));
  form.sweep(tip, angles, sweep);
  for (int i = 0; i < sweep.count(); ++i) look(angles[static_cast<std::size_t>(i)], i);
  for (std::optional<Found>& one : best)
    if (one) add(std::move(*one));
}

// Seven joints that are no shoulder, elbow and wrist: one held at values all over its range.
void PostureSearch::by_held_joint(const OneHeld& form, const Pose& tip) {
  out_.form = form.others().name();
  out_.branch_legend = form.others().branch_legend();
  const int entry = form.chain()[form.joint()].posture_index;
  out_.looked_over = arm_.moving_joint(entry).name + " held at values over its range";
  const double from = std::max(arm_.search_lower()[entry], target_.lower()[entry]);
  const double to = std::min(arm_.search_upper()[entry], target_.upper()[entry]);
  std::vector<Found> family;
  for (int i = 0; i <= kHeldValues; ++i) {
    ClosedSolutions solutions;
    form.solve(tip, from + (to - from) * i / kHeldValues, solutions);
    for (const ClosedSolution& solution : solutions) {
      Found one{posture_of(form.chain(), solution), {}};
      one.branch = branch_of(form.others(), one.posture);
      if (bring_into_range(target_, one.posture) && target_.is_met(one.posture))
        family.push_back(std::move(one));
    }
  }
  keep_best_of(std::move(family), &form.others(), true);
}

// A tool that may turn about its axis: the closed form for turns all the way round.
void PostureSearch::by_free_turn(const ClosedForm& form, const AtPlace& place) {
  out_.form = form.name();
  out_.looked_over = place.turn.upper - place.turn.lower < kTurn - 1e-9 ? "over the turns allowed"
                                                                        : "all the way round";
  out_.branch_legend = form.branch_legend();
  const double from = std::max(place.turn.lower, -std::numbers::pi);
  const double to = std::min(place.turn.upper, std::numbers::pi);
  const int steps = std::max(2, static_cast<int>(std::ceil(kFreeTurns * (to - from) / kTurn)));
  std::vector<Found> family;
  for (int i = 0; i <= steps; ++i) {
    AtPlace turned = place;
    turned.turn = Band::exactly(from + (to - from) * i / steps);
    ClosedSolutions solutions;
    form.solve(turned.frame_pose(), solutions);
    for (const ClosedSolution& solution : solutions) {
      Found one{posture_of(form.chain(), solution), form.branch(solution)};
      if (bring_into_range(target_, one.posture) && target_.is_met(one.posture))
        family.push_back(std::move(one));
    }
  }
  keep_best_of(std::move(family), &form);
}

// Moves a posture along what the target leaves open, out of what it is too near to, then downhill
// in cost, and keeps it free once it is: steps along each free direction, solved back onto the
// target, halved when none helps.
Posture PostureSearch::improved(const Posture& posture, const std::string& branch) {
  constexpr double kFirstStep = 0.3;
  constexpr double kLastStep = 0.01;
  constexpr int kMostLooks = 80;
  Found here{posture, branch};
  judge(here);
  // Joints that the cost does not look at go towards the start, rather than anywhere.
  const auto cost_at = [&](const Found& one) {
    return search_cost(one) + 0.01 * (one.posture - ranking_.from()).squaredNorm();
  };
  double cost = cost_at(here);
  int looks = 0;
  for (double step = kFirstStep; step > kLastStep && looks < kMostLooks;) {
    bool better = false;
    for (const Posture& direction : free_directions(target_, here.posture)) {
      for (const double sense : {step, -step}) {
        ++looks;
        const NumericSolve solve = solve_from(
            target_, within_ranges(target_, here.posture + sense * direction), {.iterations = 20});
        if (!solve.met || (solve.posture - here.posture).cwiseAbs().maxCoeff() > 2.0 * step)
          continue;
        Found there{solve.posture, branch};
        judge(there);
        if (here.is_free && !there.is_free) continue;  // costs more; how much takes long to tell
        const double cost_there = cost_at(there);
        if (cost_there >= cost - 1e-6) continue;
        here = std::move(there);
        cost = cost_there;
        better = true;
        break;
      }
      if (better) break;
    }
    if (!better) step *= 0.5;
  }
  return here.posture;
}

// Of postures that are the same but for full turns, that with the least cost.
Posture PostureSearch::best_turned(const Posture& posture) const {
  std::vector<Posture> all;
  append_full_turns(arm_, target_.lower(), target_.upper(), posture, ranking_.from(), all);
  const auto costs_less = [&](const Posture& a, const Posture& b) {
    return ranking_.cost_of_turns(a) < ranking_.cost_of_turns(b);
  };
  const auto least = std::min_element(all.begin(), all.end(), costs_less);
  return least == all.end() ? posture : *least;
}

// Of a family without end: the best of each kind (branch, or far apart; in a wide family, both),
// moved to where it is best.
void PostureSearch::keep_best_of(std::vector<Found> family, const ClosedForm* form, bool is_wide) {
  if (family.empty()) return;
  out_.is_family = true;
  std::vector<std::pair<double, std::size_t>> order;
  for (std::size_t i = 0; i < family.size(); ++i) {
    family[i].posture = best_turned(family[i].posture);
    judge(family[i]);
    order.emplace_back(search_cost(family[i]), i);
  }
  std::sort(order.begin(), order.end());
  const auto same_kind = [&](const Found& one, const Found& other) {
    if (one.branch != other.branch) return false;
    // A tool that turns about its axis stays where it is; other families are wide.
    const bool is_narrow = !one.branch.empty() && !is_wide;
    return is_narrow || furthest_joint(arm_, one.posture, other.posture) <= kOtherKind;
  };
  std::vector<Found> kept;
  std::vector<Found> begun;  // what those were before they were moved
  for (const auto& [cost, i] : order) {
    Found one = family[i];
    const auto is_like = [&](const Found& other) { return same_kind(one, other); };
    if (std::any_of(begun.begin(), begun.end(), is_like)) continue;
    begun.push_back(one);
    one.posture = improved(one.posture, one.branch);
    if (form != nullptr) one.branch = branch_of(*form, one.posture);
    if (std::any_of(kept.begin(), kept.end(), is_like)) continue;
    kept.push_back(one);
    add(std::move(one));
    if (static_cast<int>(begun.size()) == kMostOfFamily) break;
  }
}

}  // namespace er
