// A tree of axis-aligned boxes over things that stay where they are: the broad phase.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "elbowroom/base/pose.hpp"
#include "elbowroom/model/shape.hpp"

namespace er {

struct AlignedBox {
  Vector3 low = Vector3::Zero();
  Vector3 high = Vector3::Zero();

  static AlignedBox of(const Shape& shape, const Pose& pose) {
    const Vector3 half = half_extent(shape, pose.rotation);
    return {pose.position - half, pose.position + half};
  }
  [[nodiscard]] AlignedBox with(const AlignedBox& other) const {
    return {low.cwiseMin(other.low), high.cwiseMax(other.high)};
  }
  /// The distance between two boxes, 0 when they overlap.
  [[nodiscard]] double gap_to(const AlignedBox& other) const {
    return (low - other.high).cwiseMax(other.low - high).cwiseMax(0.0).norm();
  }
};

/// Built once over a list of boxes, split at the median of the longest side.
class BoxTree {
 public:
  BoxTree() = default;
  explicit BoxTree(const std::vector<AlignedBox>& boxes);

  /// Calls `visit(index)` for each box within `reach()` of `box`. `reach` is asked again at every
  /// step, so it may shrink while the search runs; `visit` returns false to end the search.
  /// Allocates nothing.
  template <class Reach, class Visit>
  void for_each_near(const AlignedBox& box, Reach reach, Visit visit) const {
    if (nodes_.empty()) return;
    std::array<int, 64> stack;  // the tree is balanced, so its depth is log2 of the count
    std::size_t depth = 0;
    stack[depth++] = 0;
    while (depth > 0) {
      const TreeNode& node = nodes_[static_cast<std::size_t>(stack[--depth])];
      if (node.box.gap_to(box) > reach()) continue;
      if (node.item >= 0) {
        if (!visit(node.item)) return;
        continue;
      }
      stack[depth++] = node.right;
      stack[depth++] = node.left;
    }
  }

 private:
  struct TreeNode {
    AlignedBox box;
    int left = -1;
    int right = -1;
    int item = -1;  // >= 0 for a leaf
  };
  int build(const std::vector<AlignedBox>& boxes, std::vector<int>& items, std::size_t begin,
            std::size_t end);
  std::vector<TreeNode> nodes_;
};

}  // namespace er
