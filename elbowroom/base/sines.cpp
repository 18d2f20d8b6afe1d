#include "elbowroom/base/sines.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/base/sines.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

void sines_in_lanes(const double* angles, int count, double* sines, double* cosines) {
  for (int i = 0; i < count; i += kPackSize) {
    const PackMask here = lanes_within(i, count);
    const SineCosine both = sine_cosine(load(here, angles + i));
    store(both.sine, here, sines + i);
    store(both.cosine, here, cosines + i);
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
#include <cmath>

namespace er {
namespace {
HWY_EXPORT(sines_in_lanes);

constexpr double kMostReduced = 1e6;  // rad; beyond it three parts of pi/2 are too few

}  // namespace

void sines_and_cosines(const double* angles, int count, double* sines, double* cosines) {
  HWY_DYNAMIC_DISPATCH(sines_in_lanes)(angles, count, sines, cosines);
  for (int i = 0; i < count; ++i) {
    if (std::abs(angles[i]) <= kMostReduced) continue;
    sines[i] = std::sin(angles[i]);
    cosines[i] = std::cos(angles[i]);
  }
}

}  // namespace er
#endif
