// Packs of up to eight floats, as lanes-inl.hpp has them of doubles: for what is only ever
// compared, with a margin for its rounding.

#if defined(ELBOWROOM_BASE_FLOAT_LANES_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef ELBOWROOM_BASE_FLOAT_LANES_INL_HPP
#undef ELBOWROOM_BASE_FLOAT_LANES_INL_HPP
#else
#define ELBOWROOM_BASE_FLOAT_LANES_INL_HPP
#endif

#include <cstdint>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

using FloatTag = hn::CappedTag<float, kLanes>;
using FloatPack = hn::Vec<FloatTag>;
using FloatMask = hn::Mask<FloatTag>;
constexpr int kFloatPackSize = static_cast<int>(hn::MaxLanes(FloatTag()));

HWY_INLINE FloatPack pack(float value) { return hn::Set(FloatTag(), value); }
HWY_INLINE FloatPack load(const float* from) { return hn::LoadU(FloatTag(), from); }
HWY_INLINE void store(FloatPack value, float* to) { hn::StoreU(value, FloatTag(), to); }
HWY_INLINE FloatPack choose(FloatMask mask, FloatPack yes, FloatPack no) {
  return hn::IfThenElse(mask, yes, no);
}
HWY_INLINE FloatPack largest(FloatPack a, FloatPack b) { return hn::Max(a, b); }
HWY_INLINE FloatPack least(FloatPack a, FloatPack b) { return hn::Min(a, b); }
HWY_INLINE bool none(FloatMask mask) { return hn::AllFalse(FloatTag(), mask); }
/// One bit a lane, the first the lowest; and back.
HWY_INLINE unsigned bits_of(FloatMask mask) {
  std::uint8_t bytes[8] = {};
  hn::StoreMaskBits(FloatTag(), mask, bytes);
  return bytes[0];
}
HWY_INLINE FloatMask mask_of(unsigned bits) {
  const std::uint8_t bytes[8] = {static_cast<std::uint8_t>(bits)};
  return hn::LoadMaskBits(FloatTag(), bytes);
}

using FloatVector = LaneVector<FloatPack>;

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
