#include "elbowroom/reach/polish.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/reach/polish.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/lane_linear-inl.hpp"
#include "elbowroom/kinematics/lane_walk-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

constexpr int kSix = 6;
constexpr double kExact = 1e-13;      // m and rad together
constexpr double kLongestStep = 0.3;  // rad, of any joint
constexpr double kLeastShare = 0.1;   // of a step, halved until it helps

struct LeftAt {
  PackVector position;
  TurnLeft turn;
  Pack square;
};

HWY_INLINE LeftAt left_at(const PackPose& tip, const Pose& wanted) {
  LeftAt out;
  out.position = pack(wanted.position) - tip.position;
  out.turn = turn_left(tip, wanted.rotation);
  out.square = dot(out.position, out.position) + square(out.turn.angle);
  return out;
}

HWY_INLINE PackVector choose(PackMask mask, const PackVector& yes, const PackVector& no) {
  return {choose(mask, yes.x, no.x), choose(mask, yes.y, no.y), choose(mask, yes.z, no.z)};
}

// Newton's step from where a walk ended; six joints.
HWY_INLINE void newton_step(const LaneChain& chain, const LaneWalk& walk, const LeftAt& left,
                            Pack* step) {
  PackColumn columns[LaneChain::kMostJoints];
  columns_of(chain, walk, columns);
  Pack a[kSix][kSix + 1];
  for (int j = 0; j < kSix; ++j) {
    a[0][j] = columns[j].velocity.x;
    a[1][j] = columns[j].velocity.y;
    a[2][j] = columns[j].velocity.z;
    a[3][j] = columns[j].turning.x;
    a[4][j] = columns[j].turning.y;
    a[5][j] = columns[j].turning.z;
  }
  a[0][kSix] = left.position.x;
  a[1][kSix] = left.position.y;
  a[2][kSix] = left.position.z;
  a[3][kSix] = left.turn.vector.x;
  a[4][kSix] = left.turn.vector.y;
  a[5][kSix] = left.turn.vector.z;
  eliminate<kSix>(a);
  Pack furthest = pack(kLongestStep);
  for (int i = kSix - 1; i >= 0; --i) {
    Pack sum = a[i][kSix];
    for (int k = i + 1; k < kSix; ++k) sum = sum - a[i][k] * step[k];
    step[i] = sum / a[i][i];
    furthest = largest(furthest, hn::Abs(step[i]));
  }
  const Pack share = pack(kLongestStep) / furthest;
  for (int i = 0; i < kSix; ++i) step[i] = share * step[i];
}

// `values[j][s]` is joint j of solution s.
void polish_lanes(const LaneChain& chain, const Pose& wanted, int count, int most_steps,
                  double (*values)[kMostClosedSolutions], Polished* left) {
  for (int at = 0; at < count; at += kPackSize) {
    Pack q[LaneChain::kMostJoints];
    for (int j = 0; j < chain.joints; ++j) q[j] = load(values[j] + at);
    LaneWalk walk;
    walk_lanes(chain, q, walk);
    LeftAt here = left_at(walk.tip, wanted);
    PackMask open = here.square > pack(kExact * kExact);
    Pack step[kSix];
    Pack share = pack(1.0);
    if (chain.joints == kSix && !none(open)) newton_step(chain, walk, here, step);
    for (int taken = 0; chain.joints == kSix && taken < most_steps && !none(open); ++taken) {
      Pack next[LaneChain::kMostJoints];
      for (int j = 0; j < kSix; ++j) next[j] = q[j] + share * step[j];
      walk_lanes(chain, next, walk);
      const LeftAt there = left_at(walk.tip, wanted);
      // At a singularity a step is no number, and compares as no better.
      const PackMask better = hn::And(open, there.square < here.square);
      for (int j = 0; j < kSix; ++j) q[j] = choose(better, next[j], q[j]);
      here.square = choose(better, there.square, here.square);
      here.position = choose(better, there.position, here.position);
      here.turn.angle = choose(better, there.turn.angle, here.turn.angle);
      share = choose(better, pack(1.0), pack(0.5) * share);
      open = hn::And(here.square > pack(kExact * kExact), share > pack(kLeastShare));
      if (none(open)) break;
      Pack again[kSix];
      newton_step(chain, walk, there, again);
      for (int j = 0; j < kSix; ++j) step[j] = choose(better, again[j], step[j]);
    }
    for (int j = 0; j < chain.joints; ++j) store(q[j], values[j] + at);
    double position[kLanes];
    double angle[kLanes];
    store(hn::Sqrt(dot(here.position, here.position)), position);
    store(here.turn.angle, angle);
    for (int k = 0; k < kPackSize && at + k < count; ++k) left[at + k] = {position[k], angle[k]};
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(polish_lanes);
static_assert(kMostClosedSolutions % 8 == 0, "solutions fill whole packs");
}  // namespace

void polish(const LaneChain& chain, const Pose& wanted, ClosedSolutions& solutions, int most_steps,
            Polished* left) {
  if (solutions.count == 0) return;
  double values[LaneChain::kMostJoints][kMostClosedSolutions];
  const int filled = (solutions.count + 7) / 8 * 8;
  for (int s = 0; s < filled; ++s) {
    // Lanes without a solution take the first one's values.
    const ClosedSolution& one =
        solutions.all[static_cast<std::size_t>(s < solutions.count ? s : 0)];
    for (int j = 0; j < chain.joints; ++j) values[j][s] = one.values[static_cast<std::size_t>(j)];
  }
  HWY_DYNAMIC_DISPATCH(polish_lanes)(chain, wanted, solutions.count, most_steps, values, left);
  for (int s = 0; s < solutions.count; ++s)
    for (int j = 0; j < chain.joints; ++j)
      solutions.all[static_cast<std::size_t>(s)].values[static_cast<std::size_t>(j)] = values[j][s];
}

}  // namespace er
#endif
