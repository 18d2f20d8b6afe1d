#include "support/lane_probe.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "support/lane_probe.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

void angles_of_points_in_lanes(const double* y, const double* x, int count, double* angles) {
  for (int i = 0; i < count; i += kPackSize) {
    const PackMask here = lanes_within(i, count);
    store(angle_of(load(here, y + i), load(here, x + i)), here, angles + i);
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er::test {
namespace {
using namespace er;  // NOLINT: where the kernels are
HWY_EXPORT(angles_of_points_in_lanes);
}  // namespace

void angles_of_points(const double* y, const double* x, int count, double* angles) {
  HWY_DYNAMIC_DISPATCH(angles_of_points_in_lanes)(y, x, count, angles);
}

}  // namespace er::test
#endif
