#include "elbowroom/reach/side_by_side.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/reach/side_by_side.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/lane_linear-inl.hpp"
#include "elbowroom/kinematics/lane_walk-inl.hpp"

// What the kernel works on; the same for all instruction sets.
#ifndef ELBOWROOM_REACH_SIDE_BY_SIDE_ROUND
#define ELBOWROOM_REACH_SIDE_BY_SIDE_ROUND
namespace er {

struct SideBySideRound {
  static constexpr int kSlots = 8;
  const LaneChain* chain;
  Pose target;
  bool with_turn;
  bool ends_when_met;  // as soon as any slot has met the target, no other is stepped on
  double angle_weight;
  double near_position;  // squares of what counts as met
  double near_angle;
  double lower[LaneChain::kMostJoints];
  double upper[LaneChain::kMostJoints];
  double value[LaneChain::kMostJoints][kSlots];  // stepped on
  double cost[kSlots];                           // before the step
  double met[kSlots];                            // 1 where the values met the target: no step
};

}  // namespace er
#endif

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

constexpr double kDamping = 0.05;        // of the squared error
constexpr double kLeastDamping = 1e-13;  // m^2; below it rounding takes over
constexpr double kLongestStep = 1.5;     // rad or m; further a straight step leads astray

// Where a pack of slots is, and how far off.
struct SlotsAt {
  Pack q[LaneChain::kMostJoints];
  LaneWalk walk;
  Pack error[6];
  Pack cost;
  PackMask met;
};

template <int rows>
HWY_INLINE void look_at_slots(SideBySideRound& round, int at, SlotsAt& out) {
  const LaneChain& chain = *round.chain;
  for (int j = 0; j < chain.joints; ++j) out.q[j] = load(round.value[j] + at);
  walk_lanes(chain, out.q, out.walk);
  const PackVector off = pack(round.target.position) - out.walk.tip.position;
  out.error[0] = off.x;
  out.error[1] = off.y;
  out.error[2] = off.z;
  out.cost = dot(off, off);
  out.met = out.cost <= pack(round.near_position);
  if constexpr (rows == 6) {
    const Pack weight = pack(round.angle_weight);
    const ChordLeft turn = chord_left(out.walk.tip, round.target.rotation);
    out.met = hn::And(out.met, turn.square <= pack(round.near_angle));
    const PackVector left = weight * turn.vector;
    out.error[3] = left.x;
    out.error[4] = left.y;
    out.error[5] = left.z;
    out.cost = out.cost + square(weight) * turn.square;
  }
  store(out.cost, round.cost + at);
  store(choose(out.met, pack(1.0), pack(0.0)), round.met + at);
}

// One step of every slot, for a place of three rows or six.
template <int rows>
HWY_INLINE void step_slots(SideBySideRound& round) {
  const LaneChain& chain = *round.chain;
  const int n = chain.joints;
  const Pack weight = pack(round.angle_weight);
  SlotsAt slots[kLanes / kPackSize];
  bool any_met = false;
  for (int at = 0; at < kLanes; at += kPackSize) {
    look_at_slots<rows>(round, at, slots[at / kPackSize]);
    any_met = any_met || !none(slots[at / kPackSize].met);
  }
  if (any_met && round.ends_when_met) return;
  for (int at = 0; at < kLanes; at += kPackSize) {
    auto& [q, walk, e, cost, met] = slots[at / kPackSize];
    PackColumn columns[LaneChain::kMostJoints];
    columns_of(chain, walk, columns);
    Pack g[LaneChain::kMostJoints][6];
    for (int j = 0; j < n; ++j) {
      g[j][0] = columns[j].velocity.x;
      g[j][1] = columns[j].velocity.y;
      g[j][2] = columns[j].velocity.z;
      g[j][3] = weight * columns[j].turning.x;
      g[j][4] = weight * columns[j].turning.y;
      g[j][5] = weight * columns[j].turning.z;
      // Downhill is beyond the range: the joint stays out of this step.
      Pack downhill = g[j][0] * e[0];
      for (int r = 1; r < rows; ++r) downhill = downhill + g[j][r] * e[r];
      const PackMask held = hn::Or(hn::And(q[j] <= pack(round.lower[j]), downhill < pack(0.0)),
                                   hn::And(q[j] >= pack(round.upper[j]), downhill > pack(0.0)));
      for (int r = 0; r < rows; ++r) g[j][r] = choose(held, pack(0.0), g[j][r]);
    }
    const Pack damping = pack(kDamping) * cost + pack(kLeastDamping);
    Pack a[6][6];
    Pack step[LaneChain::kMostJoints];
    if (rows <= n) {  // g^T (g g^T + damping)^-1 e
      for (int r = 0; r < rows; ++r)
        for (int c = 0; c <= r; ++c) a[r][c] = r == c ? damping : pack(0.0);
      for (int j = 0; j < n; ++j)
        for (int r = 0; r < rows; ++r)
          for (int c = 0; c <= r; ++c) a[r][c] = a[r][c] + g[j][r] * g[j][c];
      solve_positive(a, e, rows);
      for (int j = 0; j < n; ++j) {
        step[j] = g[j][0] * e[0];
        for (int r = 1; r < rows; ++r) step[j] = step[j] + g[j][r] * e[r];
      }
    } else {  // (g^T g + damping)^-1 g^T e
      for (int r = 0; r < n; ++r) {
        step[r] = g[r][0] * e[0];
        for (int k = 1; k < rows; ++k) step[r] = step[r] + g[r][k] * e[k];
        for (int c = 0; c <= r; ++c) {
          Pack sum = r == c ? damping : pack(0.0);
          for (int k = 0; k < rows; ++k) sum = sum + g[r][k] * g[c][k];
          a[r][c] = sum;
        }
      }
      solve_positive(a, step, n);
    }
    Pack furthest = pack(kLongestStep);
    for (int j = 0; j < n; ++j) furthest = largest(furthest, hn::Abs(step[j]));
    const Pack share = choose(met, pack(0.0), pack(kLongestStep) / furthest);
    for (int j = 0; j < n; ++j)
      store(largest(pack(round.lower[j]), least(pack(round.upper[j]), q[j] + share * step[j])),
            round.value[j] + at);
  }
}

void side_by_side_round(SideBySideRound& round) {
  if (round.with_turn) return step_slots<6>(round);
  step_slots<3>(round);
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
#include <algorithm>

namespace er {
namespace {
HWY_EXPORT(side_by_side_round);

constexpr int kSlots = SideBySideRound::kSlots;
// A start that does not come down to this share of its squared error in so many steps has lost its
// way.
constexpr int kPatience = 4;
constexpr double kHope = 0.3;

std::size_t at(int i) { return static_cast<std::size_t>(i); }

bool is_exact_point(const AtPlace& place) {
  return place.standoff.is_exact() && std::all_of(place.along.begin(), place.along.end(),
                                                  [](const Band& b) { return b.is_exact(); });
}

}  // namespace

SideBySide::SideBySide(const TargetOnArm& target, const LaneChain& chain, const AtPlace& place)
    : target_(&target), chain_(chain), at_(place.frame_pose()), with_turn_(place.tilt == 0.0) {}

std::optional<SideBySide> SideBySide::of(const TargetOnArm& target) {
  if (target.size() != 1) return std::nullopt;
  const auto* place = std::get_if<AtPlace>(&target[0].requirement->holds);
  if (place == nullptr || !is_exact_point(*place)) return std::nullopt;
  const bool full = place->tilt == 0.0 && place->turn.is_exact();
  // A standoff is along an axis of the frame, so that without one the point is known.
  const bool point = place->tilt == kAnyTilt && place->standoff.lower == 0.0;
  if (!full && !point) return std::nullopt;
  const auto chain = lane_chain(target.arm(), target[0].link, target[0].frame);
  if (!chain || chain->joints == 0) return std::nullopt;
  return SideBySide(target, *chain, *place);
}

std::vector<SideBySide::Found> SideBySide::solve(const SpreadSequence& starts, int most,
                                                 bool first_only,
                                                 const NumericOptions& options) const {
  const Requirement& asked = *(*target_)[0].requirement;
  SideBySideRound round;
  round.chain = &chain_;
  round.target = at_;
  round.with_turn = with_turn_;
  round.ends_when_met = first_only;
  round.angle_weight = options.angle_weight;
  // Ten times better than asked, as one start alone.
  round.near_position = 0.01 * asked.position_tolerance * asked.position_tolerance;
  round.near_angle = 0.01 * asked.angle_tolerance * asked.angle_tolerance;
  for (int j = 0; j < chain_.joints; ++j) {
    round.lower[j] = target_->lower()[chain_.entry[at(j)]];
    round.upper[j] = target_->upper()[chain_.entry[at(j)]];
  }

  struct Slot {
    int start = -1;  // none
    int iterations = 0;
    double cost_before = 0.0;
  };
  std::array<Slot, kSlots> slots;
  int taken = 0;
  int running = 0;
  const auto begin = [&](int s) {
    Slot& slot = slots[at(s)];
    const bool was_running = slot.start >= 0;
    slot = {taken < most ? taken++ : -1, 0, std::numeric_limits<double>::infinity()};
    running += (slot.start >= 0 ? 1 : 0) - (was_running ? 1 : 0);
    if (slot.start < 0) {  // what is no number meets nothing
      for (int j = 0; j < chain_.joints; ++j)
        round.value[j][s] = std::numeric_limits<double>::quiet_NaN();
      return;
    }
    const Posture q = starts.at(slot.start);
    for (int j = 0; j < chain_.joints; ++j)
      round.value[j][s] = std::clamp(q[chain_.entry[at(j)]], round.lower[j], round.upper[j]);
  };
  for (int s = 0; s < kSlots; ++s) begin(s);

  std::vector<Found> found;
  while (running > 0) {
    HWY_DYNAMIC_DISPATCH(side_by_side_round)(round);
    for (int s = 0; s < kSlots; ++s) {
      Slot& slot = slots[at(s)];
      if (slot.start < 0) continue;
      if (round.met[s] > 0.0) {
        Posture q = starts.at(slot.start).cwiseMax(target_->lower()).cwiseMin(target_->upper());
        for (int j = 0; j < chain_.joints; ++j) q[chain_.entry[at(j)]] = round.value[j][s];
        if (target_->is_met(q)) {
          found.push_back({slot.start, slot.iterations, q});
          if (first_only) return found;
        }
        begin(s);
        continue;
      }
      bool ended = ++slot.iterations >= options.iterations;
      if (options.give_up_early && ends_early(slot.start) && slot.iterations % kPatience == 0) {
        ended = ended || round.cost[s] > kHope * slot.cost_before;
        slot.cost_before = round.cost[s];
      }
      if (ended) begin(s);
    }
  }
  std::sort(found.begin(), found.end(),
            [](const Found& a, const Found& b) { return a.start < b.start; });
  return found;
}

std::vector<Posture> postures_from_starts(const TargetOnArm& target, int most) {
  const SpreadSequence starts = target.starts();
  std::vector<Posture> out;
  if (const auto lanes = SideBySide::of(target)) {
    for (auto& found : lanes->solve(starts, most, false, {.give_up_early = true}))
      out.push_back(std::move(found.posture));
    return out;
  }
  for (int i = 0; i < most; ++i) {
    NumericSolve solve = solve_from(target, starts.at(i), {.give_up_early = ends_early(i)});
    if (solve.met) out.push_back(std::move(solve.posture));
  }
  return out;
}

std::optional<Posture> posture_from_starts(const TargetOnArm& target, int most) {
  const SpreadSequence starts = target.starts();
  if (const auto lanes = SideBySide::of(target)) {
    auto found = lanes->solve(starts, most, true, {.give_up_early = true});
    if (found.empty()) return std::nullopt;
    return std::move(found.front().posture);
  }
  for (int i = 0; i < most; ++i) {
    NumericSolve solve = solve_from(target, starts.at(i), {.give_up_early = ends_early(i)});
    if (solve.met) return std::move(solve.posture);
  }
  return std::nullopt;
}

}  // namespace er
#endif
