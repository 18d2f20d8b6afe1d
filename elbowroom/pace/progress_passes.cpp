#include "elbowroom/pace/progress_passes.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/pace/progress_passes.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

constexpr double kEndless = std::numeric_limits<double>::infinity();
constexpr std::size_t kMostRows = 4 * kMaxJoints;  // accelerations and torques, at both ends
constexpr std::size_t kMostCones = 2;

constexpr double square_of(double value) { return value * value; }

// Of a pack of intervals: low - by_x x <= u <= high - by_x x, where x is that at their beginnings.
struct LaneRow {
  Pack low;
  Pack high;
  Pack by_x;
};

// |u + ratio x| <= half(x) = sqrt(square - across x^2).
struct LaneCone {
  Pack ratio;
  Pack across;
  Pack square;
};

struct LaneLimits {
  std::size_t rows = 0;
  std::size_t cones = 0;
  Pack twice;   // the lengths
  Pack widest;  // x by what does not depend on u
  LaneRow row[kMostRows];
  LaneCone cone[kMostCones];
};

// low <= p u + r x <= high, with low below zero and high above. Where p vanishes, x alone is
// bounded.
HWY_INLINE void add_row(Pack p, Pack r, Pack low, Pack high, LaneLimits& out) {
  const PackMask turned = p < pack(0.0);
  const Pack turned_low = choose(turned, hn::Neg(high), low);
  high = choose(turned, hn::Neg(low), high);
  low = turned_low;
  p = negate_if(turned, p);
  r = negate_if(turned, r);
  const PackMask vanishes = p <= pack(1e-12) * hn::Abs(r);
  if (!none(vanishes)) {
    const Pack bound = choose(r > pack(0.0), high, low) / r;
    const PackMask counts = hn::And(vanishes, hn::Abs(r) > pack(0.0));
    out.widest = choose(counts, least(out.widest, bound), out.widest);
  }
  const Pack inverse = pack(1.0) / choose(vanishes, pack(1.0), p);
  out.row[out.rows++] = {choose(vanishes, pack(-kEndless), low * inverse),
                         choose(vanishes, pack(kEndless), high * inverse),
                         choose(vanishes, pack(0.0), r * inverse)};
}

// |p u + r x| <= most, of vectors: an ellipse, or a strip.
HWY_INLINE void add_cone(const PackVector& p, const PackVector& r, Pack most, LaneLimits& out) {
  const Pack pp = dot(p, p);
  const Pack rr = dot(r, r);
  const PackMask vanishes = pp < pack(1e-24);
  const Pack inverse = pack(1.0) / choose(vanishes, pack(1.0), pp);
  const Pack ratio = choose(vanishes, pack(0.0), dot(p, r) * inverse);
  const Pack across = choose(vanishes, rr, largest(rr - ratio * ratio * pp, pack(0.0)));
  // A little inside of its widest x, where its range of u closes with an endless slope.
  const Pack widest = pack(1.0 - 1e-9) * most / hn::Sqrt(across);
  out.widest = choose(across > pack(0.0), least(out.widest, widest), out.widest);
  out.cone[out.cones++] = {ratio, choose(vanishes, pack(0.0), across * inverse),
                           choose(vanishes, pack(kEndless), most * most * inverse)};
}

// What a vector limit has at a pack of points.
HWY_INLINE PackVector load_vector(PackMask here, const std::array<const double*, 3>& from, int at) {
  return {load(here, from[0] + at), load(here, from[1] + at), load(here, from[2] + at)};
}

// Limits at both ends of the intervals from `at` on; x at the far one is x + twice u.
HWY_INLINE void gather_limits(const GridLimits& limits, int at, LaneLimits& out) {
  const int intervals = static_cast<int>(limits.lengths.size());
  const PackMask here = lanes_within(at, intervals);
  out.rows = 0;
  out.cones = 0;
  out.twice = choose(here, pack(2.0) * load(here, limits.lengths.data() + at), pack(1.0));
  out.widest = choose(here, load(here, limits.most.data() + at), pack(0.0));
  for (const GridLimits::Linear& limit : limits.linear) {
    for (int end = 0; end < 2; ++end) {
      const Pack r = load(here, limit.by_square + at + end);
      Pack p = load(here, limit.by_growth + at + end);
      if (end == 1) p = p + out.twice * r;
      const Pack still = limit.still ? load(here, limit.still + at + end) : pack(0.0);
      add_row(p, r, pack(limit.low) - still, pack(limit.high) - still, out);
    }
  }
  for (const GridLimits::Cone& limit : limits.cones) {
    for (int end = 0; end < 2; ++end) {
      const PackVector r = load_vector(here, limit.by_square, at + end);
      PackVector p = load_vector(here, limit.by_growth, at + end);
      if (end == 1) p = p + out.twice * r;
      add_cone(p, r, pack(limit.most), out);
    }
  }
}

// The lowest and the highest u at x, and how they change with x.
struct LaneRange {
  Pack low;
  Pack low_slope;
  Pack high;
  Pack high_slope;
};

HWY_INLINE LaneRange range_at(const LaneLimits& limits, Pack over, Pack x) {
  // The velocity must not turn round.
  LaneRange out{hn::Neg(x * over), hn::Neg(over), pack(kEndless), pack(0.0)};
  for (std::size_t i = 0; i < limits.rows; ++i) {
    const LaneRow& row = limits.row[i];
    const Pack slope = hn::Neg(row.by_x);
    const Pack high = row.high + slope * x;
    const Pack low = row.low + slope * x;
    out.high_slope = choose(high < out.high, slope, out.high_slope);
    out.high = least(high, out.high);
    out.low_slope = choose(low > out.low, slope, out.low_slope);
    out.low = largest(low, out.low);
  }
  for (std::size_t i = 0; i < limits.cones; ++i) {
    const LaneCone& cone = limits.cone[i];
    const Pack half = hn::Sqrt(largest(cone.square - cone.across * x * x, pack(0.0)));
    const Pack bend = choose(half > pack(0.0), hn::Neg(cone.across * x) / half, pack(0.0));
    const Pack slope = hn::Neg(cone.ratio);
    const Pack high = slope * x + half;
    const Pack low = slope * x - half;
    out.high_slope = choose(high < out.high, slope + bend, out.high_slope);
    out.high = least(high, out.high);
    out.low_slope = choose(low > out.low, slope - bend, out.low_slope);
    out.low = largest(low, out.low);
  }
  return out;
}

// The largest x for which there is any u. The ends of its range are concave and convex in x, so
// going to where their tangents cross never passes the answer.
HWY_INLINE Pack widest_with_any(const LaneLimits& limits) {
  const Pack over = pack(1.0) / limits.twice;
  Pack x = limits.widest;
  for (int i = 0; i < 100; ++i) {
    const LaneRange range = range_at(limits, over, x);
    const Pack gap = range.high - range.low;
    const PackMask wrong = gap < pack(0.0);
    if (none(wrong)) break;
    const Pack crossing = x - gap / (range.high_slope - range.low_slope);
    const Pack lower = choose(crossing > pack(0.0), crossing, pack(0.0));
    const PackMask moves = hn::And(wrong, lower < x * pack(1.0 - 1e-15));
    x = choose(wrong, least(lower, x), x);
    if (none(moves)) break;
  }
  return x;
}

// Lines of a pack of intervals by one of its lanes: what x at one end allows at the other.
struct LaneLines {
  std::size_t count = 0;
  double still[kMostRows][kLanes];
  double by_other[kMostRows][kLanes];
  std::size_t cones = 0;
  double ratio[kMostCones][kLanes];   // 1 - twice ratio
  double across[kMostCones][kLanes];  // times twice^2, both
  double square[kMostCones][kLanes];

  [[nodiscard]] HWY_INLINE double at(std::size_t i, int lane, double other) const {
    return still[i][lane] + by_other[i][lane] * other;
  }
  // In pairs of two, since each comparison waits for the one before.
  [[nodiscard]] HWY_INLINE double least_of(int lane, double other, double value) const {
    double also = value;
    std::size_t i = 0;
    for (; i + 4 <= count; i += 4) {
      value = std::min(value, std::min(at(i, lane, other), at(i + 1, lane, other)));
      also = std::min(also, std::min(at(i + 2, lane, other), at(i + 3, lane, other)));
    }
    for (; i < count; ++i) value = std::min(value, at(i, lane, other));
    return std::min(value, also);
  }
};

HWY_INLINE void keep_cones(const LaneLimits& limits, LaneLines& out) {
  out.cones = limits.cones;
  const Pack twice = limits.twice;
  for (std::size_t i = 0; i < limits.cones; ++i) {
    store(pack(1.0) - twice * limits.cone[i].ratio, out.ratio[i]);
    store(twice * twice * limits.cone[i].across, out.across[i]);
    store(twice * twice * limits.cone[i].square, out.square[i]);
  }
}

// The largest x up to `value` from which the lowest u that a cone allows leads to no more than
// `next`: a x - next <= sqrt(square - across x^2).
HWY_INLINE double least_of_cones_back(const LaneLines& lines, int lane, double next, double value) {
  for (std::size_t i = 0; i < lines.cones; ++i) {
    const double a = lines.ratio[i][lane];
    const double k = a * a + lines.across[i][lane];
    const double inside = k * lines.square[i][lane] - lines.across[i][lane] * next * next;
    if (!(a > 0.0) || inside < 0.0) continue;
    const double root = (a * next + std::sqrt(inside)) / k;
    if (a * root >= next) value = std::min(value, root);
  }
  return value;
}

HWY_INLINE double least_of_cones_on(const LaneLines& lines, int lane, double x, double value) {
  for (std::size_t i = 0; i < lines.cones; ++i)
    value = std::min(
        value, lines.ratio[i][lane] * x +
                   std::sqrt(std::max(lines.square[i][lane] - lines.across[i][lane] * x * x, 0.0)));
  return value;
}

void go_backward(const GridLimits& limits, double* x) {
  const int intervals = static_cast<int>(limits.lengths.size());
  LaneLimits here;
  LaneLines lines;
  double widest[kLanes];
  for (int at = (intervals - 1) / kPackSize * kPackSize; at >= 0; at -= kPackSize) {
    gather_limits(limits, at, here);
    store(widest_with_any(here), widest);
    lines.count = here.rows;
    for (std::size_t i = 0; i < here.rows; ++i) {
      const Pack q = pack(1.0) - here.twice * here.row[i].by_x;
      const PackMask counts = q > pack(0.0);
      const Pack inverse = pack(1.0) / choose(counts, q, pack(1.0));
      store(choose(counts, hn::Neg(here.twice * here.row[i].low) * inverse, pack(kEndless)),
            lines.still[i]);
      store(choose(counts, inverse, pack(0.0)), lines.by_other[i]);
    }
    keep_cones(here, lines);
    for (int lane = std::min(kPackSize, intervals - at) - 1; lane >= 0; --lane) {
      const double next = x[at + lane + 1];
      double value = lines.least_of(lane, next, widest[lane]);
      value = least_of_cones_back(lines, lane, next, value);
      x[at + lane] = std::max(value, 0.0);
    }
  }
}

// Whether the intervals from `at` on keep all limits with x as it is. What is used up is, to
// rounding.
HWY_INLINE bool all_kept(const GridLimits& limits, int at, const double* x) {
  constexpr double kAll = 1.0 + 1e-12;
  const int intervals = static_cast<int>(limits.lengths.size());
  const PackMask here = lanes_within(at, intervals);
  const Pack ends[2] = {load(here, x + at), load(here, x + at + 1)};
  const Pack length = choose(here, load(here, limits.lengths.data() + at), pack(1.0));
  const Pack u = (ends[1] - ends[0]) / (length + length);
  PackMask wrong = u > pack(kEndless);
  for (const GridLimits::Linear& limit : limits.linear) {
    for (int end = 0; end < 2; ++end) {
      Pack use = load(here, limit.by_growth + at + end) * u +
                 load(here, limit.by_square + at + end) * ends[end];
      if (limit.still) use = use + load(here, limit.still + at + end);
      wrong = hn::Or(wrong, hn::Or(use > pack(kAll * limit.high), use < pack(kAll * limit.low)));
    }
  }
  for (const GridLimits::Cone& limit : limits.cones) {
    for (int end = 0; end < 2; ++end) {
      const PackVector use = u * load_vector(here, limit.by_growth, at + end) +
                             ends[end] * load_vector(here, limit.by_square, at + end);
      wrong = hn::Or(wrong, dot(use, use) > pack(square_of(kAll * limit.most)));
    }
  }
  return none(wrong);
}

// Up to what going backward has left. Its lowest u need not be looked at: with x that much or less
// there is always one.
void go_forward(const GridLimits& limits, double* x) {
  const int intervals = static_cast<int>(limits.lengths.size());
  LaneLimits here;
  LaneLines lines;
  bool as_left = false;  // x where these intervals begin
  for (int at = 0; at < intervals; at += kPackSize) {
    if (as_left && all_kept(limits, at, x)) continue;
    gather_limits(limits, at, here);
    lines.count = here.rows;
    for (std::size_t i = 0; i < here.rows; ++i) {
      store(here.twice * here.row[i].high, lines.still[i]);
      store(pack(1.0) - here.twice * here.row[i].by_x, lines.by_other[i]);
    }
    keep_cones(here, lines);
    for (int lane = 0; lane < std::min(kPackSize, intervals - at); ++lane) {
      const double before = x[at + lane];
      double value = lines.least_of(lane, before, x[at + lane + 1]);
      value = std::max(least_of_cones_on(lines, lane, before, value), 0.0);
      as_left = value == x[at + lane + 1];
      x[at + lane + 1] = value;
    }
  }
}

void passes_in_lanes(const GridLimits& limits, double* x) {
  x[limits.lengths.size()] = 0.0;
  go_backward(limits, x);
  x[0] = 0.0;
  go_forward(limits, x);
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(passes_in_lanes);
}  // namespace

void quickest_progress(const GridLimits& limits, std::vector<double>& x) {
  x.resize(limits.lengths.size() + 1);
  HWY_DYNAMIC_DISPATCH(passes_in_lanes)(limits, x.data());
}

}  // namespace er
#endif
