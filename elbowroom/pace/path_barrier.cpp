#include "elbowroom/pace/path_barrier.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/pace/path_barrier.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

// Halves of what the bounds of a pack of points come to, and the least that one of them leaves.
struct BarrierSum {
  Pack gradient[3];
  Pack hessian[6];
  Pack least_left;
};

// The bound |l| < a: l and its gradient by x and x' (and x'').
struct TwoSided {
  Pack l;
  Pack by[3];
};

// -log(1 - l) - log(1 + l) = -log(1 - l^2).
HWY_INLINE void add_bound(const TwoSided& bound, BarrierSum& sum) {
  const Pack square_of_l = square(bound.l);
  const Pack left = pack(1.0) - square_of_l;
  sum.least_left = least(left, sum.least_left);
  const Pack inverse = pack(1.0) / left;
  const Pack first = bound.l * inverse;
  const Pack second = square(inverse) * (pack(1.0) + square_of_l);
  sum.gradient[0] = sum.gradient[0] + first * bound.by[0];
  sum.gradient[1] = sum.gradient[1] + first * bound.by[1];
  const Pack by_slope = second * bound.by[1];
  sum.hessian[0] = sum.hessian[0] + second * bound.by[0] * bound.by[0];
  sum.hessian[1] = sum.hessian[1] + by_slope * bound.by[0];
  sum.hessian[2] = sum.hessian[2] + by_slope * bound.by[1];
}

// -log(a - l) - log(a + l) = -log(a^2 - l^2) of many l, where a > 0 depends on x alone: what hangs
// on a is summed up first.
struct SharedSide {
  Pack square;      // of a
  Pack inverses;    // of all a^2 - l^2
  Pack seconds;     // half of what -log bends by, by l and by a alike
  Pack crossed[3];  // by l and a together
};

HWY_INLINE void add_bound(const TwoSided& bound, SharedSide& side, BarrierSum& sum) {
  const Pack square_of_l = square(bound.l);
  const Pack left = side.square - square_of_l;
  sum.least_left = least(left, sum.least_left);
  const Pack inverse = pack(1.0) / left;
  const Pack first = bound.l * inverse;
  const Pack second = square(inverse) * (side.square + square_of_l);
  const Pack crossed = first * inverse;
  Pack part[3];
  for (int i = 0; i < 3; ++i) {
    sum.gradient[i] = sum.gradient[i] + first * bound.by[i];
    side.crossed[i] = side.crossed[i] + crossed * bound.by[i];
    part[i] = second * bound.by[i];
  }
  side.inverses = side.inverses + inverse;
  side.seconds = side.seconds + second;
  sum.hessian[0] = sum.hessian[0] + part[0] * bound.by[0];
  sum.hessian[1] = sum.hessian[1] + part[1] * bound.by[0];
  sum.hessian[2] = sum.hessian[2] + part[1] * bound.by[1];
  sum.hessian[3] = sum.hessian[3] + part[2] * bound.by[0];
  sum.hessian[4] = sum.hessian[4] + part[2] * bound.by[1];
  sum.hessian[5] = sum.hessian[5] + part[2] * bound.by[2];
}

HWY_INLINE void add_side(const SharedSide& side, Pack a, Pack a_by_x, BarrierSum& sum) {
  const Pack rate = pack(-2.0) * a * a_by_x;
  sum.gradient[0] = sum.gradient[0] - side.inverses * a * a_by_x;
  sum.hessian[0] = sum.hessian[0] + side.seconds * square(a_by_x) + (rate + rate) * side.crossed[0];
  sum.hessian[1] = sum.hessian[1] + rate * side.crossed[1];
  sum.hessian[3] = sum.hessian[3] + rate * side.crossed[2];
}

HWY_INLINE void add_linear(const PathBounds::Linear& bound, std::size_t at, Pack x, Pack slope,
                           Pack root, BarrierSum& sum) {
  TwoSided out{pack(0.0), {load(bound.of_x.data() + at), load(bound.of_slope.data() + at), {}}};
  out.l = out.by[0] * x + out.by[1] * slope;
  if (!bound.still.empty()) out.l = out.l + load(bound.still.data() + at);
  if (!bound.by_root.empty()) {
    const Pack rate = load(bound.by_root.data() + at);
    out.l = out.l + rate * root;
    out.by[0] = out.by[0] + pack(0.5) * rate / root;
  }
  add_bound(out, sum);
}

// Along the vector that there is: what changes across it counts to second order only.
HWY_INLINE void add_cone(const PathBounds::Cone& cone, std::size_t at, Pack x, Pack slope,
                         BarrierSum& sum) {
  Pack of_x[3];
  Pack of_slope[3];
  Pack l[3];
  Pack square_sum = pack(0.0);
  for (std::size_t k = 0; k < 3; ++k) {
    of_x[k] = load(cone.of_x[k].data() + at);
    of_slope[k] = load(cone.of_slope[k].data() + at);
    l[k] = of_x[k] * x + of_slope[k] * slope;
    square_sum = square_sum + square(l[k]);
  }
  const Pack size = hn::Sqrt(square_sum);
  const Pack inverse = choose(size > pack(0.0), pack(1.0) / size, pack(0.0));
  TwoSided out{size, {pack(0.0), pack(0.0), {}}};
  for (int k = 0; k < 3; ++k) {
    out.by[0] = out.by[0] + inverse * l[k] * of_x[k];
    out.by[1] = out.by[1] + inverse * l[k] * of_slope[k];
  }
  add_bound(out, sum);
}

// As |l| < 1 / sqrt(x), whose right side is convex; and -log(x) more for each, so that the slacks
// are those of 1 - sqrt(x) |l|: the others are without bound as x vanishes.
HWY_INLINE void add_jerks(const PathBounds& bounds, std::size_t at, const Pack (&x)[3], Pack root,
                          BarrierSum& sum) {
  const Pack zero = pack(0.0);
  const Pack over_x = pack(1.0) / x[0];
  const Pack over_root = root * over_x;
  SharedSide side{over_x, zero, zero, {zero, zero, zero}};
  for (const PathBounds::Jerk& jerk : bounds.jerks) {
    TwoSided out{zero,
                 {load(jerk.of_x.data() + at), load(jerk.of_slope.data() + at),
                  load(jerk.of_bend.data() + at)}};
    out.l = out.by[0] * x[0] + out.by[1] * x[1] + out.by[2] * x[2];
    add_bound(out, side, sum);
  }
  add_side(side, over_root, pack(-0.5) * over_root * over_x, sum);
  const Pack of_all = pack(0.5 * static_cast<double>(bounds.jerks.size())) * over_x;
  sum.gradient[0] = sum.gradient[0] - of_all;
  sum.hessian[0] = sum.hessian[0] + of_all * over_x;
}

bool barrier_in_lanes(const PathBounds& bounds, const PathState& state, PathBarrier& out) {
  const Pack zero = pack(0.0);
  for (std::size_t at = 0; at < bounds.count; at += kPackSize) {
    const Pack x[3] = {load(state.x.data() + at), load(state.slope.data() + at),
                       load(state.bend.data() + at)};
    const Pack root = hn::Sqrt(x[0]);
    BarrierSum sum{{zero, zero, zero}, {zero, zero, zero, zero, zero, zero}, x[0]};
    for (const PathBounds::Linear& bound : bounds.linear)
      add_linear(bound, at, x[0], x[1], root, sum);
    for (const PathBounds::Cone& cone : bounds.cones) add_cone(cone, at, x[0], x[1], sum);
    add_jerks(bounds, at, x, root, sum);
    if (!hn::AllTrue(Tag(), sum.least_left > zero)) return false;
    for (std::size_t i = 0; i < 3; ++i)
      store(sum.gradient[i] + sum.gradient[i], out.gradient[i].data() + at);
    for (std::size_t i = 0; i < 6; ++i)
      store(sum.hessian[i] + sum.hessian[i], out.hessian[i].data() + at);
  }
  return true;
}

// Use of a bound, of 1, at two places; the share of the way at which it would be 1 either way.
HWY_INLINE void keep_share(Pack here, Pack there, Pack& share) {
  const PackMask beyond = hn::Abs(there) >= pack(1.0);
  if (none(beyond)) return;
  const Pack crossing = (hn::CopySign(pack(1.0), there) - here) / (there - here);
  share = choose(beyond, least(share, crossing), share);
}

HWY_INLINE Pack use_of(const PathBounds::Linear& bound, std::size_t at, Pack x, Pack slope,
                       Pack root) {
  Pack out = load(bound.of_x.data() + at) * x + load(bound.of_slope.data() + at) * slope;
  if (!bound.still.empty()) out = out + load(bound.still.data() + at);
  if (!bound.by_root.empty()) out = out + load(bound.by_root.data() + at) * root;
  return out;
}

HWY_INLINE Pack use_of(const PathBounds::Cone& cone, std::size_t at, Pack x, Pack slope) {
  Pack sum = pack(0.0);
  for (std::size_t k = 0; k < 3; ++k)
    sum = sum +
          square(load(cone.of_x[k].data() + at) * x + load(cone.of_slope[k].data() + at) * slope);
  return hn::Sqrt(sum);
}

HWY_INLINE Pack use_of(const PathBounds::Jerk& jerk, std::size_t at, Pack x, Pack slope, Pack bend,
                       Pack root) {
  return root * (load(jerk.of_x.data() + at) * x + load(jerk.of_slope.data() + at) * slope +
                 load(jerk.of_bend.data() + at) * bend);
}

double share_in_lanes(const PathBounds& bounds, const PathState& here, const PathState& way) {
  Pack share = pack(1.0);
  for (std::size_t at = 0; at < bounds.count; at += kPackSize) {
    const Pack x = load(here.x.data() + at);
    const Pack slope = load(here.slope.data() + at);
    const Pack bend = load(here.bend.data() + at);
    const Pack to = x + load(way.x.data() + at);
    const Pack slope_to = slope + load(way.slope.data() + at);
    const Pack bend_to = bend + load(way.bend.data() + at);
    share = choose(to > pack(0.0), share, least(share, x / (x - to)));
    const Pack root = hn::Sqrt(x);
    const Pack root_to = hn::Sqrt(largest(to, pack(0.0)));
    for (const PathBounds::Linear& bound : bounds.linear)
      keep_share(use_of(bound, at, x, slope, root), use_of(bound, at, to, slope_to, root_to),
                 share);
    for (const PathBounds::Cone& cone : bounds.cones)
      keep_share(use_of(cone, at, x, slope), use_of(cone, at, to, slope_to), share);
    for (const PathBounds::Jerk& jerk : bounds.jerks)
      keep_share(use_of(jerk, at, x, slope, bend, root),
                 use_of(jerk, at, to, slope_to, bend_to, root_to), share);
  }
  return hn::GetLane(hn::MinOfLanes(Tag(), share));
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(barrier_in_lanes);
HWY_EXPORT(share_in_lanes);
}  // namespace

bool path_barrier(const PathBounds& bounds, const PathState& state, PathBarrier& out) {
  for (auto& values : out.gradient) values.resize(bounds.count);
  for (auto& values : out.hessian) values.resize(bounds.count);
  return HWY_DYNAMIC_DISPATCH(barrier_in_lanes)(bounds, state, out);
}

double share_within(const PathBounds& bounds, const PathState& here, const PathState& way) {
  return HWY_DYNAMIC_DISPATCH(share_in_lanes)(bounds, here, way);
}

}  // namespace er
#endif
