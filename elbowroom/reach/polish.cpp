#include "elbowroom/reach/polish.hpp"

#include <algorithm>
#include <cstdint>
#include <numbers>

#include "elbowroom/base/trigonometric.hpp"

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
  ChordLeft turn;
  Pack square_of_position;
  Pack square;
};

HWY_INLINE LeftAt left_at(const PackPose& tip, const Pose& wanted) {
  LeftAt out;
  out.position = pack(wanted.position) - tip.position;
  out.turn = chord_left(tip, wanted.rotation);
  out.square_of_position = dot(out.position, out.position);
  out.square = out.square_of_position + out.turn.square;
  return out;
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

void polish_lanes(const LaneChain& chain, const Pose& wanted, int most_steps,
                  ClosedSolutions& solutions, Polished* left) {
  using Places = hn::RebindToSigned<Tag>;
  constexpr std::int64_t kStride = sizeof(ClosedSolution) / sizeof(double);
  static_assert(sizeof(ClosedSolution) % sizeof(double) == 0);
  for (int at = 0; at < solutions.count; at += kPackSize) {
    double* const values = solutions.all[static_cast<std::size_t>(at)].values.data();
    const int here_are = std::min(kPackSize, solutions.count - at);
    // Lanes without a solution take the first one's values.
    const PackMask is_one = lanes_within(at, solutions.count);
    const auto lane = hn::IfThenElseZero(hn::RebindMask(Places(), is_one), hn::Iota(Places(), 0));
    const auto place = lane * hn::Set(Places(), kStride);
    Pack q[LaneChain::kMostJoints];
    for (int j = 0; j < chain.joints; ++j) q[j] = hn::GatherIndex(Tag(), values + j, place);
    LaneWalk walk;
    walk_lanes(chain, q, walk);
    LeftAt here = left_at(walk.tip, wanted);
    PackMask open = here.square > pack(kExact * kExact);
    Pack step[kSix];
    Pack share = pack(1.0);
    PackMask moved = lanes_within(0, 0);
    if (chain.joints == kSix && !none(open)) newton_step(chain, walk, here, step);
    for (int taken = 0; chain.joints == kSix && taken < most_steps && !none(open); ++taken) {
      Pack next[LaneChain::kMostJoints];
      for (int j = 0; j < kSix; ++j) next[j] = q[j] + share * step[j];
      walk_lanes(chain, next, walk);
      const LeftAt there = left_at(walk.tip, wanted);
      // At a singularity a step is no number, and compares as no better.
      const PackMask better = hn::And(open, there.square < here.square);
      for (int j = 0; j < kSix; ++j) q[j] = choose(better, next[j], q[j]);
      moved = hn::Or(moved, better);
      here.square = choose(better, there.square, here.square);
      here.square_of_position = choose(better, there.square_of_position, here.square_of_position);
      here.turn.square = choose(better, there.turn.square, here.turn.square);
      share = choose(better, pack(1.0), pack(0.5) * share);
      open = hn::And(here.square > pack(kExact * kExact), share > pack(kLeastShare));
      if (none(open)) break;
      Pack again[kSix];
      newton_step(chain, walk, there, again);
      for (int j = 0; j < kSix; ++j) step[j] = choose(better, again[j], step[j]);
    }
    PackMask changed = moved;
    for (int i = 0; i < chain.steps; ++i) {
      const LaneChain::Step& one = chain.step[static_cast<std::size_t>(i)];
      if (one.turn_ratio != 0.0)
        changed = hn::Or(changed, hn::Abs(q[one.joint]) > pack(std::numbers::pi));
    }
    if (!none(changed))
      for (int i = 0; i < chain.steps; ++i) {
        const LaneChain::Step& one = chain.step[static_cast<std::size_t>(i)];
        double polished[kLanes];
        store(q[one.joint], polished);
        for (int k = 0; k < here_are; ++k)
          values[k * kStride + one.joint] =
              one.turn_ratio != 0.0 ? wrapped(polished[k]) : polished[k];
      }
    double position[kLanes];
    double chord[kLanes];
    store(hn::Sqrt(here.square_of_position), position);
    store(hn::Sqrt(here.turn.square), chord);
    for (int k = 0; k < here_are; ++k) left[at + k] = {position[k], chord[k]};
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(polish_lanes);
}  // namespace

void polish(const LaneChain& chain, const Pose& wanted, ClosedSolutions& solutions, int most_steps,
            Polished* left) {
  HWY_DYNAMIC_DISPATCH(polish_lanes)(chain, wanted, most_steps, solutions, left);
}

}  // namespace er
#endif
