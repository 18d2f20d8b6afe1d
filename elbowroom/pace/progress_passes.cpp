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
  std::size_t rows = 0;  // two a limit, of its ends
  std::size_t cones = 0;
  Pack twice;   // the lengths
  Pack widest;  // x by what does not depend on u
  LaneRow row[kMostRows];
  LaneCone cone[kMostCones];
  std::size_t limit_of[kMostRows / 2];  // among the linear ones
};

// The limit that is likely to hold progress back, and at which end of the intervals.
struct Likely {
  std::size_t limit = 0;
  std::size_t end = 0;
};

// Less counts as nothing where it is to be divided by, so that the product of two is not lost.
constexpr double kNothing = 1e-140;

HWY_INLINE PackMask counts(Pack value) { return hn::Abs(value) > pack(kNothing); }

struct Inverses {
  Pack of_a;
  Pack of_b;
};

// With one division, which takes longer than all the rest; of 1 in place of nothing.
HWY_INLINE Inverses inverses(Pack a, Pack b) {
  const Pack first = choose(counts(a), a, pack(1.0));
  const Pack second = choose(counts(b), b, pack(1.0));
  const Pack of_both = pack(1.0) / (first * second);
  return {second * of_both, first * of_both};
}

// Of what linear limits have by the growth: a column a limit, a row a point. Each is divided by in
// two intervals, and in both directions.
PostureRows over_growths(const GridLimits& limits) {
  const auto points = static_cast<int>(limits.most.size());
  const int half = (points + 1) / 2;  // two halves go together, whatever a pack holds
  PostureRows out(points, static_cast<Eigen::Index>(limits.linear.size()));
  for (std::size_t k = 0; k < limits.linear.size(); ++k) {
    const double* from = limits.linear[k].by_growth;
    double* to = out.col(static_cast<Eigen::Index>(k)).data();
    for (int at = 0; at < half; at += kPackSize) {
      const PackMask here = lanes_within(at, half);
      const PackMask there = lanes_within(at, points - half);
      const Inverses over = inverses(load(here, from + at), load(there, from + half + at));
      store(over.of_a, here, to + at);
      store(over.of_b, there, to + half + at);
    }
  }
  return out;
}

// A linear limit at one end of a pack of intervals: low <= p u + r x <= high, where x is that at
// their beginnings. What is y = x + twice u at their ends: d = p - twice r is what x has where u is
// told by y.
struct LaneEnd {
  Pack p;
  Pack over_p;
  Pack d;
  Pack over_d;
  Pack r;
  Pack low;
  Pack high;
};

HWY_INLINE void add_row(const LaneEnd& end, LaneLimits& out) {
  const Pack size = hn::Abs(end.p);
  const PackMask bounds_u = hn::And(size > pack(1e-12) * hn::Abs(end.r), size > pack(kNothing));
  const PackMask bounds_x = hn::AndNot(bounds_u, hn::Abs(end.r) > pack(0.0));
  if (!none(bounds_x)) {
    const Pack bound = choose(end.r > pack(0.0), end.high, end.low) / end.r;
    out.widest = choose(bounds_x, least(out.widest, bound), out.widest);
  }
  const Pack a = end.low * end.over_p;
  const Pack b = end.high * end.over_p;
  out.row[out.rows++] = {choose(bounds_u, least(a, b), pack(-kEndless)),
                         choose(bounds_u, largest(a, b), pack(kEndless)),
                         choose(bounds_u, end.r * end.over_p, pack(0.0))};
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

// What the rows so far leave of u, and of x at both ends.
struct LaneBox {
  Pack low;
  Pack high;
  Pack widest[2];
};

HWY_INLINE LaneBox box_of(const LaneLimits& limits) {
  return {hn::Neg(limits.widest / limits.twice), pack(kEndless), {limits.widest, pack(0.0)}};
}

// Narrowed by the rows of one more limit.
HWY_INLINE void narrow(const LaneLimits& limits, LaneBox& box) {
  for (std::size_t i = limits.rows - 2; i < limits.rows; ++i) {
    const LaneRow& row = limits.row[i];
    const Pack change = row.by_x * limits.widest;
    box.high = least(largest(row.high, row.high - change), box.high);
    box.low = largest(least(row.low, row.low - change), box.low);
  }
  box.widest[0] = limits.widest;
  box.widest[1] = limits.widest + limits.twice * largest(box.high, pack(0.0));
}

// Whether a limit is kept throughout a box, with some room: what is left out must not hang on how
// many are looked at together.
HWY_INLINE bool is_kept(const LaneBox& box, const LaneEnd* ends, const GridLimits::Linear& limit) {
  constexpr double kRoom = 1e-3;
  PackMask kept = ends[0].low < pack(kEndless);
  for (int end = 0; end < 2; ++end) {
    const Pack p = end == 0 ? ends[0].p : ends[1].d;  // of u, with x at that end
    const Pack by_x = ends[end].r * box.widest[end];
    const Pack a = p * box.low;
    const Pack b = p * box.high;
    const Pack most = largest(a, b) + largest(by_x, pack(0.0));
    const Pack fewest = least(a, b) + least(by_x, pack(0.0));
    const PackMask not_above = most < (ends[end].high - pack(kRoom * limit.high));
    const PackMask not_below = fewest > (ends[end].low - pack(kRoom * limit.low));
    kept = hn::And(kept, hn::And(not_above, not_below));
  }
  return none(hn::Not(kept));
}

// What a vector limit has at a pack of points.
HWY_INLINE PackVector load_vector(PackMask here, const std::array<const double*, 3>& from, int at) {
  return {load(here, from[0] + at), load(here, from[1] + at), load(here, from[2] + at)};
}

// Limits at both ends of the intervals from `at` on: the likely one first, and of the others those
// that may come near. `also` gets the ends of linear ones.
template <class Also>
HWY_INLINE void gather_limits(const GridLimits& limits, const PostureRows& over_growth, int at,
                              std::size_t likely, LaneLimits& out, const Also& also) {
  const int intervals = static_cast<int>(limits.lengths.size());
  const PackMask here = lanes_within(at, intervals);
  out.rows = 0;
  out.cones = 0;
  out.twice = choose(here, pack(2.0) * load(here, limits.lengths.data() + at), pack(1.0));
  out.widest = choose(here, load(here, limits.most.data() + at), pack(0.0));
  LaneBox box = box_of(out);
  for (std::size_t i = 0; i < limits.linear.size(); ++i) {
    const std::size_t k = i == 0 ? likely : i <= likely ? i - 1 : i;
    const GridLimits::Linear& limit = limits.linear[k];
    LaneEnd ends[2];
    for (int end = 0; end < 2; ++end) {
      ends[end].p = load(here, limit.by_growth + at + end);
      ends[end].r = load(here, limit.by_square + at + end);
      const Pack still = limit.still ? load(here, limit.still + at + end) : pack(0.0);
      ends[end].low = pack(limit.low) - still;
      ends[end].high = pack(limit.high) - still;
    }
    ends[0].d = ends[0].p - out.twice * ends[0].r;
    ends[1].d = ends[1].p;
    if (i > 0 && is_kept(box, ends, limit)) continue;
    const double* over = over_growth.col(static_cast<Eigen::Index>(k)).data() + at;
    ends[0].over_p = load(here, over);
    ends[1].over_d = load(here, over + 1);
    ends[1].p = ends[1].d + out.twice * ends[1].r;
    const Inverses inverse = inverses(ends[0].d, ends[1].p);
    ends[0].over_d = inverse.of_a;
    ends[1].over_p = inverse.of_b;
    out.limit_of[out.rows / 2] = k;
    for (const LaneEnd& end : ends) {
      also(end, out.rows);
      add_row(end, out);
    }
    narrow(out, box);
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

// Where rows leave no u at x. Mostly nowhere, and then nothing hangs on how range_at() changes.
HWY_INLINE PackMask has_none(const LaneLimits& limits, Pack over, Pack x) {
  LaneBox first{hn::Neg(x * over), pack(kEndless), {}};
  LaneBox second = first;
  const auto add = [&](const LaneRow& row, LaneBox& to) HWY_ATTR {
    const Pack change = row.by_x * x;
    to.high = least(row.high - change, to.high);
    to.low = largest(row.low - change, to.low);
  };
  for (std::size_t i = 0; i < limits.rows; i += 2) {
    add(limits.row[i], first);
    add(limits.row[i + 1], second);
  }
  return least(first.high, second.high) - largest(first.low, second.low) < pack(0.0);
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
  if (limits.cones == 0 && none(has_none(limits, over, x))) return x;
  for (int i = 0; i < 100; ++i) {
    const LaneRange range = range_at(limits, over, x);
    const Pack gap = range.high - range.low;
    const PackMask wrong = gap < pack(0.0);
    if (none(wrong)) break;
    const Pack crossing = x - gap / (range.high_slope - range.low_slope);
    const Pack lower = choose(crossing > pack(0.0), crossing, pack(0.0));
    const PackMask moves = hn::And(wrong, lower < x * pack(1.0 - 1e-15));
    x = choose(moves, lower, x);
    if (none(moves)) break;
  }
  return x;
}

// What x at one end of an interval allows at the other, in a pack of them.
struct LaneLines {
  std::size_t count = 0;
  HWY_ALIGN double still[kMostRows][kLanes];
  HWY_ALIGN double by_other[kMostRows][kLanes];

  HWY_INLINE void set(std::size_t i, Pack at_nothing, Pack slope) {
    store(at_nothing, still[i]);
    store(slope, by_other[i]);
  }
  [[nodiscard]] HWY_INLINE double at(std::size_t i, int lane, double other) const {
    return still[i][lane] + by_other[i][lane] * other;
  }
  // Two rows at a time, which need not wait for each other: limits have as many, one at each end.
  [[nodiscard]] HWY_INLINE Pack least_of(Pack other, Pack value) const {
    Pack second = value;
    for (std::size_t i = 0; i < count; i += 2) {
      value = least(load(still[i]) + load(by_other[i]) * other, value);
      second = least(load(still[i + 1]) + load(by_other[i + 1]) * other, second);
    }
    return least(value, second);
  }
  [[nodiscard]] std::size_t lowest(int lane, double other) const {
    std::size_t out = 0;
    for (std::size_t i = 1; i < count; ++i)
      if (at(i, lane, other) < at(out, lane, other)) out = i;
    return out;
  }
};

// x of a pack of intervals at one end, of which each hangs on that at the other, which is the one
// before's. First with the likely limit's line alone, one after the other; then all limits side by
// side, which nearly always leave it at that. Else the first that they change is exact, and the
// others follow from there by the line that changed it. `lane` goes from `first`, by `step`, to
// before `last`; `x` is where those that are looked for begin, `other` that at the other ends.
// `all` are the limits, as a function of x at the other ends.
template <class All>
HWY_INLINE void settle(const LaneLimits& limits, const LaneLines& lines, const double* cap,
                       int first, int last, int step, double* x, const double* other,
                       Likely& likely, const All& all) {
  if constexpr (kPackSize == 1) return store(largest(all(load(other)), pack(0.0)), x);
  HWY_ALIGN double exact[kLanes];
  const PackMask here = lanes_within(0, step > 0 ? last : first + 1);
  std::size_t line = likely.end;
  for (int lane = first; lane != last; lane += step) {
    double guess = other[lane];
    for (int i = lane; i != last; i += step) {
      guess = lines.at(line, i, guess);
      x[i] = guess = guess < cap[i] ? guess : cap[i];
    }
    const Pack value = largest(all(load(here, other)), pack(0.0));
    if (none(hn::And(here, value != load(here, x)))) return;
    store(value, exact);
    while (x[lane] == exact[lane]) lane += step;
    x[lane] = exact[lane];
    line = lines.lowest(lane, other[lane]);
    likely = {limits.limit_of[line / 2], line % 2};
  }
}

// The largest x up to `value` from which the lowest u that a cone allows leads to no more than
// `next`: a x - next <= sqrt(square - across x^2), where a = 1 - twice ratio.
HWY_INLINE Pack least_of_cones_back(const LaneLimits& limits, Pack next, Pack value) {
  for (std::size_t i = 0; i < limits.cones; ++i) {
    const LaneCone& cone = limits.cone[i];
    const Pack twice_squared = limits.twice * limits.twice;
    const Pack a = pack(1.0) - limits.twice * cone.ratio;
    const Pack across = twice_squared * cone.across;
    const Pack k = a * a + across;
    const Pack inside = k * (twice_squared * cone.square) - across * next * next;
    const PackMask meets = hn::And(a > pack(0.0), inside >= pack(0.0));
    const Pack root = (a * next + hn::Sqrt(choose(meets, inside, pack(0.0)))) / k;
    value = choose(hn::And(meets, a * root >= next), least(root, value), value);
  }
  return value;
}

HWY_INLINE Pack least_of_cones_on(const LaneLimits& limits, Pack x, Pack value) {
  for (std::size_t i = 0; i < limits.cones; ++i) {
    const LaneCone& cone = limits.cone[i];
    const Pack inside = cone.square - cone.across * x * x;
    value = least((pack(1.0) - limits.twice * cone.ratio) * x +
                      limits.twice * hn::Sqrt(largest(inside, pack(0.0))),
                  value);
  }
  return value;
}

void go_backward(const GridLimits& limits, const PostureRows& over_growth, double* x) {
  const int intervals = static_cast<int>(limits.lengths.size());
  LaneLimits here;
  LaneLines lines;
  Likely likely;
  HWY_ALIGN double cap[kLanes];
  for (int at = (intervals - 1) / kPackSize * kPackSize; at >= 0; at -= kPackSize) {
    gather_limits(limits, over_growth, at, likely.limit, here,
                  [&](const LaneEnd& end, std::size_t row) {
                    // Where p and d are of one sign, the lowest u leads to the highest x.
                    const PackMask bounds = hn::And(counts(end.p), end.d * end.over_p > pack(0.0));
                    const Pack still =
                        hn::Neg(here.twice * least(end.low * end.over_d, end.high * end.over_d));
                    lines.set(row, choose(hn::And(bounds, counts(end.d)), still, pack(kEndless)),
                              choose(bounds, end.p * end.over_d, pack(0.0)));
                  });
    lines.count = here.rows;
    const Pack widest = widest_with_any(here);
    store(widest, cap);
    settle(here, lines, cap, std::min(kPackSize, intervals - at) - 1, -1, -1, x + at, x + at + 1,
           likely, [&](Pack next) {
             return least_of_cones_back(here, next, lines.least_of(next, widest));
           });
  }
}

// Whether a pack of intervals keeps all limits with x as it is. What is used up is, to rounding.
HWY_INLINE bool pack_kept(const GridLimits& limits, int at, const double* x) {
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

// As many intervals, whatever a pack holds: what is computed and what is not must not hang on that.
HWY_INLINE bool all_kept(const GridLimits& limits, int from, int to, const double* x) {
  for (int at = from; at < to; at += kPackSize)
    if (!pack_kept(limits, at, x)) return false;
  return true;
}

// x at the ends of a pack of intervals, up to what going backward has left; whether the last is
// that. The lowest u need not be looked at: with x that much or less there is always one.
HWY_INLINE bool pack_forward(const GridLimits& limits, const PostureRows& over_growth, int at,
                             LaneLimits& here, LaneLines& lines, Likely& likely, double* x) {
  gather_limits(limits, over_growth, at, likely.limit, here, [](const LaneEnd&, std::size_t) {});
  lines.count = here.rows;
  for (std::size_t i = 0; i < here.rows; ++i)
    lines.set(i, here.twice * here.row[i].high, pack(1.0) - here.twice * here.row[i].by_x);
  const int count = std::min(kPackSize, static_cast<int>(limits.lengths.size()) - at);
  const Pack left = load(lanes_within(0, count), x + at + 1);
  HWY_ALIGN double cap[kLanes];
  store(left, cap);
  settle(here, lines, cap, 0, count, 1, x + at + 1, x + at, likely, [&](Pack before) {
    return least_of_cones_on(here, before, lines.least_of(before, left));
  });
  return x[at + count] == cap[count - 1];
}

void go_forward(const GridLimits& limits, const PostureRows& over_growth, double* x) {
  const int intervals = static_cast<int>(limits.lengths.size());
  LaneLimits here;
  LaneLines lines;
  Likely likely;
  bool as_left = false;  // x where these intervals begin
  for (int from = 0; from < intervals; from += kLanes) {
    const int to = std::min(from + kLanes, intervals);
    if (as_left && all_kept(limits, from, to, x)) continue;
    for (int at = from; at < to; at += kPackSize)
      as_left = pack_forward(limits, over_growth, at, here, lines, likely, x);
  }
}

void passes_in_lanes(const GridLimits& limits, double* x) {
  const PostureRows over_growth = over_growths(limits);
  x[limits.lengths.size()] = 0.0;
  go_backward(limits, over_growth, x);
  x[0] = 0.0;
  go_forward(limits, over_growth, x);
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
