#include "elbowroom/pace/grid_pieces.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/pace/grid_pieces.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

// What all joints have of a pack of intervals, at their beginnings and ends.
struct LaneProgress {
  Pack speed[2];
  Pack square[2];  // of the speed
  Pack growth;
};

HWY_INLINE LaneProgress progress_of(const PacedGrid& paced, int at, PackMask here) {
  LaneProgress out;
  out.growth = load(here, paced.growth.data() + at);
  for (int end = 0; end < 2; ++end) {
    out.speed[end] = load(here, paced.speed.data() + at + end);
    out.square[end] = out.speed[end] * out.speed[end];
  }
  return out;
}

// The same where `time` counts as one.
HWY_INLINE LaneProgress per(Pack time, const LaneProgress& progress) {
  const Pack square = time * time;
  LaneProgress out;
  out.growth = square * progress.growth;
  for (int end = 0; end < 2; ++end) {
    out.speed[end] = time * progress.speed[end];
    out.square[end] = square * progress.square[end];
  }
  return out;
}

// A joint over a pack of intervals: position, velocity and acceleration at their beginnings and
// ends.
struct LaneEnds {
  Pack position[2];
  Pack velocity[2];
  Pack acceleration[2];
};

HWY_INLINE LaneEnds ends_of(const PathGrid& grid, const LaneProgress& progress, Eigen::Index joint,
                            int at, PackMask here) {
  LaneEnds out;
  for (int end = 0; end < 2; ++end) {
    const int point = at + end;
    const Pack slope = load(here, grid.slope.col(joint).data() + point);
    const Pack curvature = load(here, grid.curvature.col(joint).data() + point);
    out.position[end] = load(here, grid.position.col(joint).data() + point);
    out.velocity[end] = progress.speed[end] * slope;
    out.acceleration[end] = progress.growth * slope + progress.square[end] * curvature;
  }
  return out;
}

struct LaneSpan {
  Pack low;
  Pack high;
};

HWY_INLINE LaneSpan span_of(Pack a, Pack b) { return {least(a, b), largest(a, b)}; }

// One over the limits of both ways.
struct LaneWays {
  Pack over_low;
  Pack over_high;
  [[nodiscard]] HWY_INLINE Pack share_of(const LaneSpan& values) const {
    return largest(values.low * over_low, values.high * over_high);
  }
};

HWY_INLINE LaneWays lane_ways(const WayLimits& limits) {
  return {pack(1.0 / limits.low), pack(1.0 / limits.high)};
}

void velocity_use_in_lanes(const PathGrid& grid, const PathLimits& limits, double* use) {
  const auto points = static_cast<int>(grid.points());
  const Eigen::Index joints = grid.slope.cols();
  LaneWays velocity[kMaxJoints];
  for (Eigen::Index k = 0; k < joints; ++k) velocity[k] = lane_ways(limits.velocity_of(k));
  for (int at = 0; at < points; at += kPackSize) {
    const PackMask here = lanes_within(at, points);
    Pack most = pack(0.0);
    for (Eigen::Index k = 0; k < joints; ++k) {
      const Pack slope = load(here, grid.slope.col(k).data() + at);
      most = largest(most, velocity[k].share_of({slope, slope}));
    }
    store(most, here, use + at);
  }
}

// At least the largest (squared) shares of the joints' limits over each interval, a column a joint
// and the largest of all in `most`; and what is reached at their ends. The velocity of a quintic is
// a quartic whose Bernstein coefficients follow from its ends and its mean; those of the
// acceleration are their differences.
double shares_in_lanes(const PacedGrid& paced, const PathLimits& limits, PostureRows& shares,
                       double* most) {
  const int intervals = static_cast<int>(paced.duration.size());
  const Eigen::Index joints = shares.cols();
  LaneWays velocity[kMaxJoints];
  LaneWays acceleration[kMaxJoints];
  for (Eigen::Index k = 0; k < joints; ++k) {
    velocity[k] = lane_ways(limits.velocity_of(k));
    acceleration[k] = lane_ways(limits.acceleration_of(k));
  }
  Pack reached = pack(0.0);
  for (int at = 0; at < intervals; at += kPackSize) {
    const PackMask here = lanes_within(at, intervals);
    const Pack time = choose(here, load(here, paced.duration.data() + at), pack(1.0));
    const Pack quarter = pack(0.25) * time;
    const Pack over_quarter = pack(1.0) / quarter;
    const Pack five_over_time = pack(1.25) * over_quarter;
    const LaneProgress progress = progress_of(paced, at, here);
    Pack of_all = pack(0.0);
    for (Eigen::Index k = 0; k < joints; ++k) {
      const LaneEnds ends = ends_of(paced.grid, progress, k, at, here);
      const Pack b0 = ends.velocity[0];
      const Pack b1 = b0 + quarter * ends.acceleration[0];
      const Pack b4 = ends.velocity[1];
      const Pack b3 = b4 - quarter * ends.acceleration[1];
      const Pack b2 =
          five_over_time * (ends.position[1] - ends.position[0]) - (b0 + b4) - (b1 + b3);
      const LaneSpan inner = span_of(b1, b3);
      const Pack ends_v = velocity[k].share_of(span_of(b0, b4));
      const Pack inner_v = velocity[k].share_of({least(inner.low, b2), largest(inner.high, b2)});
      const Pack ends_a =
          acceleration[k].share_of(span_of(ends.acceleration[0], ends.acceleration[1]));
      const Pack inner_a =
          acceleration[k].share_of(span_of((b2 - b1) * over_quarter, (b3 - b2) * over_quarter));
      reached = largest(reached, largest(square(ends_v), ends_a));
      const Pack share = largest(square(largest(ends_v, inner_v)), largest(ends_a, inner_a));
      store(share, here, shares.col(k).data() + at);
      of_all = largest(of_all, share);
    }
    store(of_all, here, most + at);
  }
  return hn::GetLane(hn::MaxOfLanes(Tag(), reached));
}

// With the interval as the unit of time, the higher coefficients are those of a way from rest at
// zero: to what the lower ones leave of position, velocity and acceleration at its end.
void pieces_in_lanes(const PacedGrid& paced, int from, int to, double slowed, CurvePiece* pieces) {
  // Of coefficients that follow each other, as they are copied.
  HWY_ALIGN double pairs[3][kLanes][2];
  for (int at = from; at < to; at += kPackSize) {
    const int count = std::min(kPackSize, to - at);
    const PackMask here = lanes_within(at, to);
    const Pack time = choose(here, load(here, paced.duration.data() + at), pack(1.0));
    const LaneProgress progress = per(time, progress_of(paced, at, here));
    const Pack first = pack(1.0) / (pack(slowed) * time);
    const Pack second = first * first;
    const Pack third = second * first;
    const Pack fourth = second * second;
    const Pack fifth = third * second;
    double* out[kLanes];
    for (int lane = 0; lane < count; ++lane)
      out[lane] = pieces[at - from + lane].joints.data()->data();
    for (Eigen::Index k = 0; k < paced.grid.position.cols(); ++k) {
      const LaneEnds ends = ends_of(paced.grid, progress, k, at, here);
      const Pack bend = pack(0.5) * ends.acceleration[0];
      const Pack rise = (ends.position[1] - ends.position[0]) - ends.velocity[0] - bend;
      const Pack faster = (ends.velocity[1] - ends.velocity[0]) - ends.acceleration[0];
      const Pack more_bent = pack(0.5) * ends.acceleration[1] - bend;
      const Pack c3 = pack(10.0) * rise - pack(4.0) * faster + more_bent;
      const Pack c4 = pack(7.0) * faster - pack(15.0) * rise - (more_bent + more_bent);
      const Pack c5 = pack(6.0) * rise - pack(3.0) * faster + more_bent;
      hn::StoreInterleaved2(ends.position[0], first * ends.velocity[0], Tag(), pairs[0][0]);
      hn::StoreInterleaved2(second * bend, third * c3, Tag(), pairs[1][0]);
      hn::StoreInterleaved2(fourth * c4, fifth * c5, Tag(), pairs[2][0]);
      for (int lane = 0; lane < count; ++lane)
        for (int i = 0; i < 3; ++i) std::copy_n(pairs[i][lane], 2, out[lane] + 6 * k + 2 * i);
    }
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(velocity_use_in_lanes);
HWY_EXPORT(shares_in_lanes);
HWY_EXPORT(pieces_in_lanes);

// The largest (squared) share of a joint's limits over an interval.
double share_in(const PacedGrid& paced, std::size_t interval, Eigen::Index joint,
                const PathLimits& limits) {
  const auto end = [&](std::size_t point) {
    const auto row = static_cast<Eigen::Index>(point);
    const double slope = paced.grid.slope(row, joint);
    const double speed = paced.speed[point];
    return EndValues{
        paced.grid.position(row, joint), speed * slope,
        paced.growth[interval] * slope + speed * speed * paced.grid.curvature(row, joint)};
  };
  const double time = paced.duration[interval];
  const Quintic velocity = derivative_of(quintic_between(end(interval), end(interval + 1), time));
  const Extremes v = extremes_of(velocity, time);
  const Extremes a = extremes_of(derivative_of(velocity), time);
  const auto share_of = [](const WayLimits& most, const Extremes& e) {
    return std::max(most.share_of(e.high), most.share_of(e.low));
  };
  const double share = share_of(limits.velocity_of(joint), v);
  return std::max(share * share, share_of(limits.acceleration_of(joint), a));
}

}  // namespace

PacedGrid::PacedGrid(const PathGrid& path, const std::vector<double>& x)
    : grid(path), speed(x.size()), duration(path.intervals()), growth(path.intervals()) {
  const auto intervals = static_cast<Eigen::Index>(path.intervals());
  const Eigen::Map<const Eigen::ArrayXd> squares(x.data(), intervals + 1);
  const Eigen::Map<const Eigen::ArrayXd> lengths(path.lengths.data(), intervals);
  Eigen::Map<Eigen::ArrayXd> roots(speed.data(), intervals + 1);
  roots = squares.sqrt();
  Eigen::Map<Eigen::ArrayXd>(duration.data(), intervals) =
      2.0 * lengths / (roots.head(intervals) + roots.tail(intervals));
  Eigen::Map<Eigen::ArrayXd>(growth.data(), intervals) =
      (squares.tail(intervals) - squares.head(intervals)) / (2.0 * lengths);
}

Eigen::ArrayXd velocity_use(const PathGrid& grid, const PathLimits& limits) {
  Eigen::ArrayXd out(static_cast<Eigen::Index>(grid.points()));
  HWY_DYNAMIC_DISPATCH(velocity_use_in_lanes)(grid, limits, out.data());
  return out;
}

double stretch_to_keep(const PacedGrid& paced, const PathLimits& limits,
                       const std::vector<std::size_t>& left_out) {
  const std::size_t intervals = paced.grid.intervals();
  PostureRows bounds(static_cast<Eigen::Index>(intervals), paced.grid.position.cols());
  std::vector<double> highest(intervals);
  double most = HWY_DYNAMIC_DISPATCH(shares_in_lanes)(paced, limits, bounds, highest.data());
  for (const std::size_t i : left_out) highest[i] = 0.0;
  const auto look = [&](std::size_t interval) {
    if (highest[interval] <= most) return;
    const auto row = static_cast<Eigen::Index>(interval);
    for (Eigen::Index joint = 0; joint < bounds.cols(); ++joint)
      if (bounds(row, joint) > most)
        most = std::max(most, share_in(paced, interval, joint, limits));
  };
  // The highest bound first: what it is really leaves few others in question.
  look(
      static_cast<std::size_t>(std::max_element(highest.begin(), highest.end()) - highest.begin()));
  for (std::size_t i = 0; i < intervals; ++i) look(i);
  return std::sqrt(most);
}

void add_grid_pieces(const PacedGrid& paced, std::size_t from, std::size_t to, double slowed,
                     std::vector<CurvePiece>& pieces) {
  // A few at a time, which the cache still has when they are filled in.
  constexpr std::size_t kFew = 32;
  for (; from < to; from += kFew) {
    const std::size_t end = std::min(from + kFew, to);
    const std::size_t first = pieces.size();
    pieces.resize(first + end - from);
    for (std::size_t i = from; i < end; ++i) {
      CurvePiece& piece = pieces[first + i - from];
      piece.duration = slowed * paced.duration[i];
      piece.joints.resize_for_overwrite(static_cast<std::size_t>(paced.grid.position.cols()));
    }
    HWY_DYNAMIC_DISPATCH(pieces_in_lanes)
    (paced, static_cast<int>(from), static_cast<int>(end), slowed, pieces.data() + first);
  }
}

}  // namespace er
#endif
