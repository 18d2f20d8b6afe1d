#include "elbowroom/reach/diagnosis.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <optional>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/base/vector_text.hpp"
#include "elbowroom/kinematics/reach_bound.hpp"
#include "elbowroom/reach/arm_remedies.hpp"
#include "elbowroom/reach/conflict.hpp"
#include "elbowroom/reach/least_change.hpp"
#include "elbowroom/reach/numeric.hpp"
#include "elbowroom/reach/pose_remedies.hpp"
#include "elbowroom/reach/possible_cone.hpp"

namespace er {
namespace {

// The best of many numeric solves, by a measure of the result (lower is better).
template <class Measure>
NumericSolve best_solve(const TargetOnArm& target, const NumericOptions& options, int starts,
                        Measure measure) {
  SpreadSequence sequence = target.starts();
  std::optional<NumericSolve> best;
  for (int i = 0; i < starts; ++i) {
    const NumericSolve solve = solve_from(target, sequence.next(), options);
    if (!best || measure(solve) < measure(*best)) best = solve;
  }
  return *best;
}

// Ranges are what they are, but a full turn more or less is the same posture: bring each joint as
// near to its range as full turns can.
Posture nearest_turn(const Arm& arm, Posture q) {
  for (int k = 0; k < arm.dof(); ++k) {
    if (arm.moving_joint(k).kind != JointKind::revolute) continue;
    const double middle = 0.5 * (arm.search_lower()[k] + arm.search_upper()[k]);
    q[k] = middle + std::remainder(q[k] - middle, 2.0 * std::numbers::pi);
  }
  return q;
}

double breach(const Arm& arm, const Posture& q) {
  return (arm.limits().lower - q).cwiseMax(q - arm.limits().upper).cwiseMax(0.0).maxCoeff();
}

// Where the frame of a target of one full pose is in a posture.
Pose frame_of(const Arm& arm, const Target& target, const Posture& posture) {
  const TargetOnArm on_arm(arm, target);
  return frame_pose(arm, on_arm[0].link, on_arm[0].frame, posture);
}

// The way off what is too near, for a posture's nearest pair; zero within the arm itself, where
// moving the target along it means nothing.
Vector3 way_off(const CellQuery& query, const Nearest& pair) {
  const Vector3 apart = pair.point_first - pair.point_second;
  const bool of_itself = query.name(pair.second).starts_with(query.arm().name() + ".");
  if (of_itself || apart.norm() < 1e-9) return Vector3::Zero();
  return (pair.distance > 0.0 ? 1.0 : -1.0) * apart.normalized();
}

// The reason when nothing is too near, but what is to be seen is hidden in every posture.
Reason view_blocked(const std::vector<ReachSolution>& colliding) {
  const auto one = std::find_if(colliding.begin(), colliding.end(),
                                [](const ReachSolution& s) { return !s.view_blocked_by.empty(); });
  return {
      Cause::view_blocked,
      fmt::format("no: the view is blocked in all {} free postures that meet the target, in the "
                  "first by {}",
                  std::count_if(colliding.begin(), colliding.end(),
                                [](const ReachSolution& s) { return !s.view_blocked_by.empty(); }),
                  one->view_blocked_by)};
}

// `colliding` with the roomiest first.
Reason in_collision(const CellQuery& query, const Target& target,
                    const std::vector<ReachSolution>& colliding, const ReachOptions& options,
                    bool complete) {
  if (std::any_of(colliding.begin(), colliding.end(),
                  [](const ReachSolution& one) { return !one.view_blocked_by.empty(); }))
    return view_blocked(colliding);
  const Nearest& best = colliding.front().nearest;
  const char* found = complete ? "" : " found";
  const std::string which =
      colliding.size() == 1
          ? fmt::format("the only posture{} that meets the target is too near something: ", found)
          : fmt::format(
                "all {} postures{} that meet the target are too near something; the best of "
                "them: ",
                colliding.size(), found);
  Reason reason{.cause = Cause::in_collision,
                .text = "no: " + which + query.describe(best, options.clearance),
                .figures = {{"postures", static_cast<double>(colliding.size()), ""},
                            {"best_distance", best.distance, "m"}}};
  for (const ReachSolution& one : colliding) reason.postures.push_back(one.posture);
  const bool look_for_shifts = options.find_remedies && target.first_place() != nullptr;
  // One line for each branch: full turns of a posture meet the same things.
  std::vector<std::string> told;
  for (const ReachSolution& one : colliding) {
    if (one.branch.empty()) continue;
    std::string line = fmt::format("{}: {}", one.branch, query.describe(one.nearest));
    if (std::find(told.begin(), told.end(), line) != told.end()) continue;
    told.push_back(line);
    const Vector3 off = way_off(query, one.nearest);
    if (look_for_shifts && !off.isZero())
      if (const auto shift = least_shift(query, target, options, off, {1, kMostShift}, one.branch))
        line += "; free with the target moved by " + text_mm(*shift);
    reason.details.push_back(std::move(line));
  }
  if (look_for_shifts)
    reason.remedies = shift_remedies(query, target, options, way_off(query, best));
  return reason;
}

// True when no posture takes the frame as far as the place: then none can be missing.
bool is_beyond_length(const Arm& arm, const Target& target) {
  if (target.full_pose() == nullptr) return false;
  const TargetOnArm on_arm(arm, target);
  const ReachBound bound = reach_bound(arm, on_arm[0].link, on_arm[0].frame.position);
  return (target.pose().position - bound.from).norm() > bound.distance + 1e-6;
}

// The clearance that was asked for, by the options or by the target.
ReachOptions with_clearance(const Target& target, ReachOptions options) {
  options.clearance = std::max(options.clearance, target.clearance());
  return options;
}

// A posture within ranges that are wider by so much, if one is found; `near` is tried first.
std::optional<Posture> found_within(const TargetOnArm& target, double wider, const Posture& near) {
  constexpr int kStarts = 8;
  const NumericOptions options{.wider = wider};
  SpreadSequence starts = target.starts();
  for (int i = 0; i <= kStarts; ++i) {
    const Posture start = i == 0 ? Posture(near.array()
                                               .max(target.lower().array() - wider)
                                               .min(target.upper().array() + wider))
                                 : starts.next();
    const NumericSolve solve = solve_from(target, start, options);
    if (solve.met) return solve.posture;
  }
  return std::nullopt;
}

// One that is beyond the ranges by as little as can be found. An arm with joints to spare has many
// that meet a target.
Posture least_beyond(const TargetOnArm& target, Posture met) {
  constexpr int kHalvings = 12;
  double enough = breach(target.arm(), met);
  double too_little = 0.0;
  for (int i = 0; i < kHalvings; ++i) {
    const double wider = 0.5 * (too_little + enough);
    const auto nearer = found_within(target, wider, met);
    // Within the ranges, it is the target's own joint bands that refuse it.
    if (!nearer || target.arm().limit_breach(*nearer).empty()) {
      too_little = wider;
      continue;
    }
    met = *nearer;
    enough = breach(target.arm(), met);
  }
  return met;
}

Reason beyond_limits(const Arm& arm, const Posture& posture) {
  return {.cause = Cause::beyond_limits,
          .text = fmt::format("no: only beyond the joint limits: {}",
                              fmt::join(arm.limit_breaches(posture), "; ")),
          .figures = {{"beyond_by", breach(arm, posture), "rad or m"}},
          .postures = {posture}};
}

// What comes nearest is told as such: of 650 random poses that arms of odd makes come near to, six
// came 0.2 to 4 deg nearer with more starts than are usual, none with three times as many.
constexpr int kTimesTheStarts = 4;

// What comes nearest to a pose.
struct NearestSolves {
  NumericSolve any_way;  // to the place, whatever the orientation
  // All but as near, with a faint wish for the orientation: the least turn there.
  NumericSolve least_turned;
  NumericSolve as_asked;  // to the place, the orientation all but kept

  NearestSolves(const TargetOnArm& target, int starts)
      : any_way(best_solve(target, {.angle_weight = 0.0}, starts,
                           [](const NumericSolve& s) { return s.error.position; })) {
    constexpr double kFirm = 1e3;
    const double short_by = any_way.met ? 0.0 : any_way.error.position;
    const double faint = any_way.met ? 1e-3 : 0.01 * short_by;
    least_turned = best_solve(target, {.angle_weight = faint}, starts, [&](const NumericSolve& s) {
      return s.error.angle + kFirm * std::max(0.0, s.error.position - short_by - faint);
    });
    as_asked = best_solve(target, {.angle_weight = kFirm}, starts, [](const NumericSolve& s) {
      return s.error.position + kFirm * std::max(0.0, s.error.angle - 1e-3);
    });
  }
};

std::vector<Remedy> remedies_by(const NearestSolves& nearest, const CellQuery& query,
                                const Target& target, const ReachOptions& options) {
  const auto frame = [&](const NumericSolve& solve) {
    return frame_of(query.arm(), target, solve.posture);
  };
  return pose_remedies(query, target, options,
                       {.can_be_met = nearest.any_way.met,
                        .least_turned = frame(nearest.least_turned),
                        .as_asked = frame(nearest.as_asked)});
}

// Why, with what change of the target would do.
Reason cause_of(const CellQuery& query, const Target& target, const ReachOptions& options,
                const std::vector<ReachSolution>& colliding, const std::vector<Posture>& beyond,
                bool complete) {
  const Arm& arm = query.arm();
  const bool is_pose = target.full_pose() != nullptr;
  if (!colliding.empty()) {
    std::vector<ReachSolution> roomiest_first = colliding;
    std::stable_sort(roomiest_first.begin(), roomiest_first.end(),
                     [](const ReachSolution& a, const ReachSolution& b) {
                       return a.nearest.distance > b.nearest.distance;
                     });
    return in_collision(query, target, roomiest_first, with_clearance(target, options), complete);
  }
  if (!options.find_remedies) return {Cause::out_of_reach, "no: nothing meets the target"};

  const TargetOnArm on_arm(arm, target);
  const auto beyond_limits_in = [&](const Posture& posture) {
    Reason reason = beyond_limits(arm, posture);
    if (is_pose)
      reason.remedies = remedies_by(NearestSolves(on_arm, kTimesTheStarts * options.starts), query,
                                    target, options);
    return reason;
  };
  if (!beyond.empty()) {
    Posture least = nearest_turn(arm, beyond.front());
    for (const Posture& one : beyond)
      if (breach(arm, nearest_turn(arm, one)) < breach(arm, least)) least = nearest_turn(arm, one);
    // What keeps the ranges is refused by the target's own joint bands.
    if (!arm.limit_breach(least).empty())
      return beyond_limits_in(complete ? least : least_beyond(on_arm, least));
  }
  const NumericSolve unlimited = best_solve(
      on_arm, {.wider = std::numeric_limits<double>::infinity()}, options.starts,
      [&](const NumericSolve& s) {
        return s.met ? breach(arm, nearest_turn(arm, s.posture)) : 1e9 + s.error.position;
      });
  if (unlimited.met && !arm.limit_breach(nearest_turn(arm, unlimited.posture)).empty())
    return beyond_limits_in(least_beyond(on_arm, nearest_turn(arm, unlimited.posture)));
  if (!is_pose) return explain_conflict(query, target, options);

  const NearestSolves nearest(on_arm, kTimesTheStarts * options.starts);
  if (nearest.any_way.met)
    return {.cause = Cause::orientation,
            .text = fmt::format("no: the position can be met, the orientation not: it comes no "
                                "nearer than {}",
                                text_angle(nearest.least_turned.error.angle)),
            .figures = {{"turned_by", nearest.least_turned.error.angle, "rad"}},
            .remedies = remedies_by(nearest, query, target, options),
            .details = {possible_cone(arm, target).text()},
            .postures = {nearest.least_turned.posture}};
  const double short_by = nearest.any_way.error.position;
  return {.cause = Cause::out_of_reach,
          .text = fmt::format("no: out of reach, short by {}", text_length(short_by)),
          .figures = {{"short_by", short_by, "m"}},
          .remedies = remedies_by(nearest, query, target, options),
          .postures = {nearest.least_turned.posture}};
}

}  // namespace

Reason explain_no(const CellQuery& query, const Target& target, const ReachOptions& options,
                  const std::vector<ReachSolution>& colliding, const std::vector<Posture>& beyond,
                  const Reach& search) {
  Reason reason = cause_of(query, target, options, colliding, beyond, search.complete);
  if (!search.complete && search.converged == 0 && options.find_remedies &&
      !is_beyond_length(query.arm(), target))
    reason.details.push_back(
        fmt::format("not proved: no closed form gives all postures here; {} starts led to none",
                    search.starts));
  if (options.find_remedies)
    for (Remedy& remedy : arm_remedies(query, target, options))
      reason.remedies.push_back(std::move(remedy));
  return reason;
}

}  // namespace er
