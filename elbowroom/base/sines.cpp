#include "elbowroom/base/sines.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/base/sines.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

void sines_of_lanes(const double* angles, int count, double* sines, double* cosines) {
  int i = 0;
  for (; i + kPackSize <= count; i += kPackSize) {
    const SineCosine both = sine_cosine(load(angles + i));
    store(both.sine, sines + i);
    store(both.cosine, cosines + i);
  }
  if (i == count) return;
  const auto rest = hn::FirstN(Tag(), static_cast<std::size_t>(count - i));
  const SineCosine both = sine_cosine(hn::MaskedLoad(rest, Tag(), angles + i));
  hn::BlendedStore(both.sine, rest, Tag(), sines + i);
  hn::BlendedStore(both.cosine, rest, Tag(), cosines + i);
}

void angles_of_lanes(const double* y, const double* x, int count, double* angles) {
  int i = 0;
  for (; i + kPackSize <= count; i += kPackSize)
    store(angle_of(load(y + i), load(x + i)), angles + i);
  if (i == count) return;
  const auto rest = hn::FirstN(Tag(), static_cast<std::size_t>(count - i));
  const Pack angle =
      angle_of(hn::MaskedLoad(rest, Tag(), y + i), hn::MaskedLoad(rest, Tag(), x + i));
  hn::BlendedStore(angle, rest, Tag(), angles + i);
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
#include <cmath>

namespace er {
namespace {
HWY_EXPORT(sines_of_lanes);
HWY_EXPORT(angles_of_lanes);

constexpr double kMostReduced = 1e6;  // rad; beyond it three parts of pi/2 are too few

}  // namespace

void sines_and_cosines(const double* angles, int count, double* sines, double* cosines) {
  HWY_DYNAMIC_DISPATCH(sines_of_lanes)(angles, count, sines, cosines);
  for (int i = 0; i < count; ++i) {
    if (std::abs(angles[i]) <= kMostReduced) continue;
    sines[i] = std::sin(angles[i]);
    cosines[i] = std::cos(angles[i]);
  }
}

void angles_of(const double* y, const double* x, int count, double* angles) {
  HWY_DYNAMIC_DISPATCH(angles_of_lanes)(y, x, count, angles);
}

}  // namespace er
#endif
