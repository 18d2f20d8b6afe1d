#include "elbowroom/collision/lane_boxes.hpp"

#include <algorithm>

#include "elbowroom/base/float_rounding.hpp"

namespace er {
namespace {

constexpr std::size_t kEight = 8;

LaneBoxes::Eight no_boxes() {
  LaneBoxes::Eight out;
  for (auto& lane : out.low) std::fill(std::begin(lane), std::end(lane), LaneBoxes::kNone);
  for (auto& lane : out.high) std::fill(std::begin(lane), std::end(lane), -LaneBoxes::kNone);
  return out;
}

}  // namespace

LaneBoxes lane_boxes(std::span<const AlignedBox> boxes, const Vector3& centre) {
  LaneBoxes out;
  std::vector<AlignedBox> level(boxes.begin(), boxes.end());
  while (!level.empty()) {
    const std::size_t first = out.eights.size();
    std::vector<AlignedBox> above;
    for (std::size_t i = 0; i < level.size(); ++i) {
      const AlignedBox& box = level[i];
      if (i % kEight == 0) {
        out.eights.push_back(no_boxes());
        above.push_back(box);
      }
      above.back() = above.back().with(box);
      LaneBoxes::Eight& eight = out.eights.back();
      for (Eigen::Index axis = 0; axis < 3; ++axis) {
        eight.low[axis][i % kEight] = -rounded_up_to_float(centre[axis] - box.low[axis]);
        eight.high[axis][i % kEight] = rounded_up_to_float(box.high[axis] - centre[axis]);
      }
    }
    out.levels.push_back({static_cast<int>(first), static_cast<int>(out.eights.size() - first)});
    if (above.size() == 1) break;
    level = std::move(above);
  }
  return out;
}

}  // namespace er
