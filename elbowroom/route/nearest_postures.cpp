#include "elbowroom/route/nearest_postures.hpp"

#include <algorithm>
#include <array>
#include <limits>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/route/nearest_postures.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/float_lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

// The squared distances of some lanes of a block.
FloatPack squares_of(const float* lanes, int entries, int at, const float* to) {
  FloatPack sum = pack(0.0F);
  for (int e = 0; e < entries; ++e) {
    const FloatPack gap = load(lanes + e * kLanes + at) - pack(to[e]);
    sum = sum + gap * gap;
  }
  return sum;
}

// The least of some lanes is compared before any of them is looked at.
int nearest_in_lanes(const float* lanes, int entries, int count, const float* to) {
  FloatPack least_so_far = pack(std::numeric_limits<float>::max());
  int best = 0;
  float best_value = std::numeric_limits<float>::max();
  for (int first = 0; first < count; first += kLanes, lanes += entries * kLanes)
    for (int at = 0; at < kLanes; at += kFloatPackSize) {
      const FloatPack sum = squares_of(lanes, entries, at, to);
      if (none(sum < least_so_far)) continue;
      float values[kLanes];
      store(sum, values);
      for (int lane = 0; lane < kFloatPackSize; ++lane)
        if (values[lane] < best_value) {
          best_value = values[lane];
          best = first + at + lane;
        }
      least_so_far = pack(best_value);
    }
  return best;
}

// All squared distances; `out` has room for whole blocks.
void squares_in_lanes(const float* lanes, int entries, int count, const float* to, float* out) {
  for (int first = 0; first < count; first += kLanes, lanes += entries * kLanes)
    for (int at = 0; at < kLanes; at += kFloatPackSize)
      store(squares_of(lanes, entries, at, to), out + first + at);
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(nearest_in_lanes);
HWY_EXPORT(squares_in_lanes);

constexpr std::size_t kLanesEach = 8;
// Where no posture is yet: as far as can be, without becoming infinite when squared and added up.
constexpr float kNowhere = 1e18F;

std::array<float, kMaxJoints> as_floats(const PostureRef& posture) {
  std::array<float, kMaxJoints> out;
  for (Eigen::Index e = 0; e < posture.size(); ++e)
    out[static_cast<std::size_t>(e)] = static_cast<float>(posture[e]);
  return out;
}
}  // namespace

void NearestPostures::add(const PostureRef& posture) {
  const std::size_t lane = static_cast<std::size_t>(size_++) % kLanesEach;
  const auto block = static_cast<std::size_t>(entries_) * kLanesEach;
  if (lane == 0) lanes_.resize(lanes_.size() + block, kNowhere);
  float* to = lanes_.data() + lanes_.size() - block + lane;
  for (Eigen::Index e = 0; e < posture.size(); ++e, to += kLanesEach)
    *to = static_cast<float>(posture[e]);
}

void NearestPostures::keep(int count) {
  const auto block = static_cast<std::size_t>(entries_) * kLanesEach;
  size_ = count;
  lanes_.resize((static_cast<std::size_t>(count) + kLanesEach - 1) / kLanesEach * block);
  const std::size_t used = static_cast<std::size_t>(count) % kLanesEach;
  if (used == 0) return;
  float* last = lanes_.data() + lanes_.size() - block;
  for (std::size_t e = 0; e < static_cast<std::size_t>(entries_); ++e)
    std::fill(last + e * kLanesEach + used, last + (e + 1) * kLanesEach, kNowhere);
}

int NearestPostures::nearest(const PostureRef& to) const {
  return HWY_DYNAMIC_DISPATCH(nearest_in_lanes)(lanes_.data(), entries_, size_,
                                                as_floats(to).data());
}

void NearestPostures::nearest(const PostureRef& to, int count, std::vector<int>& out) const {
  std::vector<float> squares((static_cast<std::size_t>(size_) + kLanesEach - 1) / kLanesEach *
                             kLanesEach);
  HWY_DYNAMIC_DISPATCH(squares_in_lanes)
  (lanes_.data(), entries_, size_, as_floats(to).data(), squares.data());
  out.resize(static_cast<std::size_t>(size_));
  for (int i = 0; i < size_; ++i) out[static_cast<std::size_t>(i)] = i;
  const auto square = [&](int i) { return squares[static_cast<std::size_t>(i)]; };
  const auto end = out.begin() + std::min(count, size_);
  std::partial_sort(out.begin(), end, out.end(), [&](int a, int b) {
    return square(a) != square(b) ? square(a) < square(b) : a < b;
  });
  out.erase(end, out.end());
}

}  // namespace er
#endif
