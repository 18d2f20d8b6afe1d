#include "elbowroom/route/posture_tree.hpp"

#include <algorithm>
#include <limits>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/route/posture_tree.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/float_lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

// The squared distances of eight nodes of a block; the block's least is compared first.
int nearest_in_lanes(const float* lanes, int entries, int count, const float* to) {
  FloatPack least_so_far = pack(std::numeric_limits<float>::max());
  int best = 0;
  float best_value = std::numeric_limits<float>::max();
  for (int first = 0; first < count; first += kLanes, lanes += entries * kLanes)
    for (int at = 0; at < kLanes; at += kFloatPackSize) {
      FloatPack sum = pack(0.0F);
      for (int e = 0; e < entries; ++e) {
        const FloatPack gap = load(lanes + e * kLanes + at) - pack(to[e]);
        sum = sum + gap * gap;
      }
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

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(nearest_in_lanes);

constexpr std::size_t kLanesEach = 8;
// Where no node is yet: as far as can be, without becoming infinite when squared and added up.
constexpr float kNowhere = 1e18F;
}  // namespace

int PostureTree::add(const PostureRef& posture, int parent) {
  const std::size_t lane = nodes_.size() % kLanesEach;
  const auto block = static_cast<std::size_t>(entries_) * kLanesEach;
  if (lane == 0) lanes_.resize(lanes_.size() + block, kNowhere);
  float* to = lanes_.data() + lanes_.size() - block + lane;
  for (Eigen::Index e = 0; e < posture.size(); ++e, to += kLanesEach)
    *to = static_cast<float>(posture[e]);
  nodes_.push_back({posture, parent, parent < 0 ? roots_++ : root(parent)});
  return size() - 1;
}

int PostureTree::nearest(const PostureRef& to) const {
  std::array<float, kMaxJoints> wanted;
  for (Eigen::Index e = 0; e < to.size(); ++e)
    wanted[static_cast<std::size_t>(e)] = static_cast<float>(to[e]);
  return HWY_DYNAMIC_DISPATCH(nearest_in_lanes)(lanes_.data(), entries_, size(), wanted.data());
}

std::vector<Posture> PostureTree::path_from_root(int node) const {
  std::vector<Posture> path;
  for (; node >= 0; node = at(node).parent) path.push_back(posture(node));
  std::reverse(path.begin(), path.end());
  return path;
}

}  // namespace er
#endif
