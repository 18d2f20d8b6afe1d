#include "elbowroom/collision/box_tree.hpp"

#include <numeric>

namespace er {

BoxTree::BoxTree(const std::vector<AlignedBox>& boxes) {
  if (boxes.empty()) return;
  std::vector<int> items(boxes.size());
  std::iota(items.begin(), items.end(), 0);
  nodes_.reserve(2 * boxes.size());
  build(boxes, items, 0, items.size());
}

int BoxTree::build(const std::vector<AlignedBox>& boxes, std::vector<int>& items, std::size_t begin,
                   std::size_t end) {
  const auto box_of = [&](std::size_t i) -> const AlignedBox& {
    return boxes[static_cast<std::size_t>(items[i])];
  };
  const auto index = nodes_.size();
  nodes_.emplace_back();
  AlignedBox all = box_of(begin);
  for (std::size_t i = begin + 1; i < end; ++i) all = all.with(box_of(i));
  nodes_[index].box = all;
  if (end - begin == 1) {
    nodes_[index].item = items[begin];
    return static_cast<int>(index);
  }
  Eigen::Index axis = 0;
  (all.high - all.low).maxCoeff(&axis);
  const std::size_t middle = begin + (end - begin) / 2;
  const auto at = [&](std::size_t i) { return items.begin() + static_cast<std::ptrdiff_t>(i); };
  std::nth_element(at(begin), at(middle), at(end), [&](int x, int y) {
    const AlignedBox& bx = boxes[static_cast<std::size_t>(x)];
    const AlignedBox& by = boxes[static_cast<std::size_t>(y)];
    return bx.low[axis] + bx.high[axis] < by.low[axis] + by.high[axis];
  });
  const int left = build(boxes, items, begin, middle);
  const int right = build(boxes, items, middle, end);
  nodes_[index].left = left;
  nodes_[index].right = right;
  return static_cast<int>(index);
}

}  // namespace er
