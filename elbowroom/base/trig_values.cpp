#include "elbowroom/base/trig_values.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/base/trig_values.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

void trig_values_in_lanes(const double* c, int degree, const double* angles, int count,
                          const TrigValues& out) {
  for (int i = 0; i < count; i += kPackSize) {
    const PackMask here = lanes_within(i, count);
    const SineCosine one = sine_cosine(load(here, angles + i));
    Pack cosine = one.cosine;
    Pack sine = one.sine;
    Pack value = pack(c[0]);
    Pack slope = pack(0.0);
    Pack bend = pack(0.0);
    Pack third = pack(0.0);
    for (int k = 1; k <= degree; ++k) {
      const Pack a = pack(c[2 * k - 1]);
      const Pack b = pack(c[2 * k]);
      const Pack even = a * cosine + b * sine;
      const Pack odd = b * cosine - a * sine;
      const double order = k;
      value = value + even;
      slope = slope + pack(order) * odd;
      bend = bend - pack(order * order) * even;
      third = third - pack(order * order * order) * odd;
      const Pack next = cosine * one.cosine - sine * one.sine;
      sine = sine * one.cosine + cosine * one.sine;
      cosine = next;
    }
    store(value, here, out.f + i);
    store(slope, here, out.first + i);
    store(bend, here, out.second + i);
    store(third, here, out.third + i);
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(trig_values_in_lanes);
}  // namespace

void trig_values(const double* c, int degree, const double* angles, int count,
                 const TrigValues& out) {
  HWY_DYNAMIC_DISPATCH(trig_values_in_lanes)(c, degree, angles, count, out);
}

}  // namespace er
#endif
