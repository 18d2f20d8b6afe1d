#include "elbowroom/pace/path_grid.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/pace/path_grid.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include <numeric>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

// A polynomial and its first two derivatives at many places.
void values_in_lanes(const Quintic& c, const double* places, int count, double* position,
                     double* slope, double* curvature) {
  Pack value[6];
  Pack first[5];
  Pack second[4];
  for (std::size_t i = 0; i < 6; ++i) {
    const auto power = static_cast<double>(i);
    value[i] = pack(c[i]);
    if (i > 0) first[i - 1] = pack(power * c[i]);
    if (i > 1) second[i - 2] = pack(power * (power - 1.0) * c[i]);
  }
  for (int i = 0; i < count; i += kPackSize) {
    const PackMask here = lanes_within(i, count);
    const Pack t = load(here, places + i);
    Pack a = value[5];
    Pack b = first[4];
    Pack d = second[3];
    for (int k = 4; k >= 0; --k) a = a * t + value[k];
    for (int k = 3; k >= 0; --k) b = b * t + first[k];
    for (int k = 2; k >= 0; --k) d = d * t + second[k];
    store(a, here, position + i);
    store(b, here, slope + i);
    store(d, here, curvature + i);
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(values_in_lanes);
}  // namespace

PathGrid path_grid(const JointCurve& path, const std::vector<int>& intervals) {
  PathGrid out;
  const auto points =
      static_cast<std::size_t>(std::accumulate(intervals.begin(), intervals.end(), 1));
  for (PostureRows* values : {&out.position, &out.slope, &out.curvature})
    values->resize(static_cast<Eigen::Index>(points), path.dof());
  out.at.resize(points);
  out.lengths.resize(points - 1);
  std::vector<double> places(points);  // in their pieces
  double start = 0.0;
  Eigen::Index first = 0;
  for (std::size_t piece = 0; piece < intervals.size(); ++piece) {
    const CurvePiece& here = path.pieces()[piece];
    // The last piece has the point at its end, too; of others that is the next one's first.
    const int count = intervals[piece] + (piece + 1 == intervals.size() ? 1 : 0);
    const double over_intervals = 1.0 / intervals[piece];
    for (int i = 0; i < count; ++i) {
      const auto place = static_cast<std::size_t>(i);
      places[place] = here.duration * (i == intervals[piece] ? 1.0 : i * over_intervals);
      out.at[static_cast<std::size_t>(first) + place] = start + places[place];
    }
    for (Eigen::Index k = 0; k < path.dof(); ++k) HWY_DYNAMIC_DISPATCH(values_in_lanes)
    (here.joints[static_cast<std::size_t>(k)], places.data(), count,
     out.position.col(k).data() + first, out.slope.col(k).data() + first,
     out.curvature.col(k).data() + first);
    start += here.duration;
    first += count;
  }
  for (std::size_t i = 0; i + 1 < points; ++i) out.lengths[i] = out.at[i + 1] - out.at[i];
  return out;
}

}  // namespace er
#endif
