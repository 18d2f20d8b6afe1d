// A vector of the room in one vector register, with a number to fill it: for what is done to one
// posture, not to many side by side. See base/lanes-inl.hpp.

#if defined(ELBOWROOM_BASE_FOUR_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef ELBOWROOM_BASE_FOUR_INL_HPP
#undef ELBOWROOM_BASE_FOUR_INL_HPP
#else
#define ELBOWROOM_BASE_FOUR_INL_HPP
#endif

#include <algorithm>
#include <cstdint>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

/// Four numbers in one vector, or several.
struct Four {
  using Tag4 = hn::CappedTag<double, 4>;
  static constexpr int kSize = static_cast<int>(hn::MaxLanes(Tag4()));
  static constexpr int kParts = 4 / kSize;
  hn::Vec<Tag4> part[kParts];

  static HWY_INLINE Four of(const double* from) {
    Four out;
    for (int i = 0; i < kParts; ++i) out.part[i] = hn::LoadU(Tag4(), from + i * kSize);
    return out;
  }
  /// Through registers: through memory it would wait for numbers that were only just written.
  static HWY_INLINE Four of(double x, double y, double z) {
    Four out;
#if HWY_TARGET == HWY_SCALAR
    const double padded[4] = {x, y, z, 0.0};
    for (int i = 0; i < 4; ++i) out.part[i] = hn::Set(Tag4(), padded[i]);
#else
    const hn::FixedTag<double, 2> two;
    const auto xy = hn::InterleaveLower(two, hn::Set(two, x), hn::Set(two, y));
    const auto z0 = hn::InterleaveLower(two, hn::Set(two, z), hn::Zero(two));
#if HWY_MAX_BYTES >= 32
    out.part[0] = hn::Combine(Tag4(), z0, xy);
#else
    out.part[0] = xy;
    out.part[1] = z0;
#endif
#endif
    return out;
  }
  static HWY_INLINE Four of(const Vector3& v) { return of(v[0], v[1], v[2]); }
  HWY_INLINE void write(double* to) const {
    for (int i = 0; i < kParts; ++i) hn::StoreU(part[i], Tag4(), to + i * kSize);
  }
  HWY_INLINE void write_three(double* to) const {
#if HWY_TARGET != HWY_SCALAR && HWY_MAX_BYTES >= 32
    const hn::FixedTag<double, 2> two;
    hn::StoreU(hn::LowerHalf(two, part[0]), two, to);
    to[2] = hn::GetLane(hn::UpperHalf(two, part[0]));
#else
    double padded[4];
    write(padded);
    std::copy_n(padded, 3, to);
#endif
  }
  /// y, z, x
  [[nodiscard]] HWY_INLINE Four rolled() const {
    if constexpr (kParts == 1) {
      alignas(32) static constexpr std::int64_t kNext[4] = {1, 2, 0, 3};
      return {{hn::TableLookupLanes(part[0], hn::SetTableIndices(Tag4(), kNext))}};
    }
    double parts[4];
    write(parts);
    return of(Vector3(parts[1], parts[2], parts[0]));
  }
  [[nodiscard]] HWY_INLINE Four cross(const Four& other) const;
};
HWY_INLINE Four operator+(const Four& a, const Four& b) {
  Four out;
  for (int i = 0; i < Four::kParts; ++i) out.part[i] = a.part[i] + b.part[i];
  return out;
}
HWY_INLINE Four operator-(const Four& a, const Four& b) {
  Four out;
  for (int i = 0; i < Four::kParts; ++i) out.part[i] = a.part[i] - b.part[i];
  return out;
}
HWY_INLINE Four operator*(double s, const Four& v) {
  Four out;
  const auto all = hn::Set(Four::Tag4(), s);
  for (int i = 0; i < Four::kParts; ++i) out.part[i] = all * v.part[i];
  return out;
}

/// Number by number.
HWY_INLINE Four operator*(const Four& a, const Four& b) {
  Four out;
  for (int i = 0; i < Four::kParts; ++i) out.part[i] = a.part[i] * b.part[i];
  return out;
}
HWY_INLINE Four Four::cross(const Four& other) const {
  return (*this * other.rolled() - rolled() * other).rolled();
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
