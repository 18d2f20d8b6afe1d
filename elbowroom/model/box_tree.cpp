#include "elbowroom/model/box_tree.hpp"

#include <numeric>

namespace er {

BoxTree::BoxTree(const std::vector<AlignedBox>& boxes, int leaf) : order_(boxes.size()) {
  if (boxes.empty()) return;
  std::iota(order_.begin(), order_.end(), 0);
  nodes_.reserve(4 * boxes.size() / static_cast<std::size_t>(leaf + 1) + 1);
  build(boxes, 0, static_cast<int>(boxes.size()), leaf);
}

void BoxTree::forget_order() { std::iota(order_.begin(), order_.end(), 0); }

int BoxTree::build(const std::vector<AlignedBox>& boxes, int begin, int end, int leaf) {
  const auto at = [&](int i) { return order_.begin() + i; };
  const auto box_of = [&](int item) -> const AlignedBox& {
    return boxes[static_cast<std::size_t>(item)];
  };
  const auto index = nodes_.size();
  AlignedBox all = box_of(*at(begin));
  for (int i = begin + 1; i < end; ++i) all = all.with(box_of(*at(i)));
  nodes_.push_back({all, begin, end, -1});
  if (end - begin <= leaf) return static_cast<int>(index);
  Eigen::Index axis = 0;
  (all.high - all.low).maxCoeff(&axis);
  const int middle = begin + (end - begin) / 2;
  std::nth_element(at(begin), at(middle), at(end), [&](int x, int y) {
    return box_of(x).low[axis] + box_of(x).high[axis] < box_of(y).low[axis] + box_of(y).high[axis];
  });
  build(boxes, begin, middle, leaf);
  nodes_[index].right = build(boxes, middle, end, leaf);
  return static_cast<int>(index);
}

}  // namespace er
