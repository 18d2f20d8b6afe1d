#include "elbowroom/pace/path_barrier.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/pace/path_barrier.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

// Of one pack of points.
struct BarrierSum {
  Pack gradient[3];
  Pack hessian[6];
  PackMask inside;
};

// The bound |l| < a: l and its gradient by x and x' (and x'').
struct TwoSided {
  Pack l;
  Pack by[3];
};

// -log(a - l) - log(a + l), where a depends on x alone.
template <int kDerivatives>
HWY_INLINE void add_bound(const TwoSided& bound, Pack a, Pack a_by_x, BarrierSum& sum) {
  const Pack high = a - bound.l;
  const Pack low = a + bound.l;
  const Pack product = high * low;
  sum.inside = hn::And(sum.inside, hn::And(high > pack(0.0), low > pack(0.0)));
  const Pack inverse = pack(1.0) / product;
  const Pack over_high = low * inverse;
  const Pack over_low = high * inverse;
  Pack up[kDerivatives];
  Pack down[kDerivatives];
  for (int i = 0; i < kDerivatives; ++i) {
    const Pack of_a = i == 0 ? a_by_x : pack(0.0);
    up[i] = over_high * (of_a - bound.by[i]);
    down[i] = over_low * (of_a + bound.by[i]);
    sum.gradient[i] = sum.gradient[i] - (up[i] + down[i]);
  }
  int at = 0;
  for (int i = 0; i < kDerivatives; ++i)
    for (int j = 0; j <= i; ++j, ++at)
      sum.hessian[at] = sum.hessian[at] + (up[i] * up[j] + down[i] * down[j]);
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
  add_bound<2>(out, pack(1.0), pack(0.0), sum);
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
  add_bound<2>(out, pack(1.0), pack(0.0), sum);
}

// As |l| < 1 / sqrt(x), whose right side is convex; and -log(x) more, so that the slacks are those
// of 1 - sqrt(x) |l|: the others are without bound as x vanishes.
HWY_INLINE void add_jerk(const PathBounds::Jerk& jerk, std::size_t at, Pack x, Pack slope,
                         Pack bend, Pack over_x, Pack over_root, BarrierSum& sum) {
  TwoSided out{pack(0.0),
               {load(jerk.of_x.data() + at), load(jerk.of_slope.data() + at),
                load(jerk.of_bend.data() + at)}};
  out.l = out.by[0] * x + out.by[1] * slope + out.by[2] * bend;
  add_bound<3>(out, over_root, pack(-0.5) * over_root * over_x, sum);
  sum.gradient[0] = sum.gradient[0] - over_x;
  sum.hessian[0] = sum.hessian[0] + square(over_x);
}

bool barrier_in_lanes(const PathBounds& bounds, const double* x, const double* slope,
                      const double* bend, PathBarrier& out) {
  const Pack zero = pack(0.0);
  for (std::size_t at = 0; at < bounds.count; at += kPackSize) {
    const Pack value = load(x + at);
    const Pack first = load(slope + at);
    const Pack second = load(bend + at);
    const Pack over_x = pack(1.0) / value;
    const Pack root = hn::Sqrt(value);
    BarrierSum sum{{zero, zero, zero}, {zero, zero, zero, zero, zero, zero}, value > zero};
    for (const PathBounds::Linear& bound : bounds.linear)
      add_linear(bound, at, value, first, root, sum);
    for (const PathBounds::Cone& cone : bounds.cones) add_cone(cone, at, value, first, sum);
    for (const PathBounds::Jerk& jerk : bounds.jerks)
      add_jerk(jerk, at, value, first, second, over_x, root * over_x, sum);
    if (!hn::AllTrue(Tag(), sum.inside)) return false;
    for (std::size_t i = 0; i < 3; ++i) store(sum.gradient[i], out.gradient[i].data() + at);
    for (std::size_t i = 0; i < 6; ++i) store(sum.hessian[i], out.hessian[i].data() + at);
  }
  return true;
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(barrier_in_lanes);
}  // namespace

bool path_barrier(const PathBounds& bounds, const std::vector<double>& x,
                  const std::vector<double>& slope, const std::vector<double>& bend,
                  PathBarrier& out) {
  for (auto& values : out.gradient) values.resize(bounds.count);
  for (auto& values : out.hessian) values.resize(bounds.count);
  return HWY_DYNAMIC_DISPATCH(barrier_in_lanes)(bounds, x.data(), slope.data(), bend.data(), out);
}

}  // namespace er
#endif
