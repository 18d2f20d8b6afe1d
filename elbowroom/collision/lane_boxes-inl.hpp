// Which boxes of LaneBoxes overlap one. See base/lanes-inl.hpp.

#if defined(ELBOWROOM_COLLISION_LANE_BOXES_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef ELBOWROOM_COLLISION_LANE_BOXES_INL_HPP
#undef ELBOWROOM_COLLISION_LANE_BOXES_INL_HPP
#else
#define ELBOWROOM_COLLISION_LANE_BOXES_INL_HPP
#endif

#include <array>

#include "elbowroom/base/float_lanes-inl.hpp"
#include "elbowroom/collision/lane_boxes.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

/// One bit for each of eight boxes. `low` and `high` are the same in all lanes.
HWY_INLINE unsigned overlapping(const LaneBoxes::Eight& eight, const FloatVector& low,
                                const FloatVector& high) {
  unsigned bits = 0;
  for (int at = 0; at < kLanes; at += kFloatPackSize) {
    const FloatMask from =
        hn::And(hn::And(load(eight.low[0] + at) <= high.x, load(eight.low[1] + at) <= high.y),
                load(eight.low[2] + at) <= high.z);
    const FloatMask to =
        hn::And(hn::And(load(eight.high[0] + at) >= low.x, load(eight.high[1] + at) >= low.y),
                load(eight.high[2] + at) >= low.z);
    bits |= bits_of(hn::And(from, to)) << at;
  }
  return bits;
}

/// Calls `visit(i)` for each box that overlaps the one from `low` to `high`, the same in all lanes;
/// `visit` returns false to end the search. Allocates nothing.
template <class Visit>
HWY_INLINE void for_each_overlapping(const LaneBoxes& boxes, const FloatVector& low,
                                     const FloatVector& high, const Visit& visit) {
  if (boxes.levels.empty()) return;
  struct Waiting {
    int level;
    int eight;  // of the level
  };
  std::array<Waiting, 128> stack;  // at most seven of each level, of which there are eleven
  std::size_t depth = 0;
  stack[depth++] = {static_cast<int>(boxes.levels.size()) - 1, 0};
  while (depth > 0) {
    const auto [level, eight] = stack[--depth];
    const int first = boxes.levels[static_cast<std::size_t>(level)].first;
    unsigned bits = overlapping(boxes.eights[static_cast<std::size_t>(first + eight)], low, high);
    for (int i = 8 * eight; bits != 0; ++i, bits >>= 1) {
      if ((bits & 1U) == 0) continue;
      if (level > 0) {
        stack[depth++] = {level - 1, i};
      } else if (!visit(i)) {
        return;
      }
    }
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
