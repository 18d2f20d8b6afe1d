// A tree of axis-aligned boxes over things that stay where they are: the broad phase.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <span>
#include <vector>

#include "elbowroom/base/pose.hpp"

namespace er {

struct AlignedBox {
  Vector3 low = Vector3::Zero();
  Vector3 high = Vector3::Zero();

  [[nodiscard]] Vector3 middle() const { return 0.5 * (low + high); }
  [[nodiscard]] Vector3 half() const { return 0.5 * (high - low); }
  [[nodiscard]] AlignedBox with(const AlignedBox& other) const {
    return {low.cwiseMin(other.low), high.cwiseMax(other.high)};
  }
  /// A box along the outer axes that holds this one, which is given in the frame `pose`.
  [[nodiscard]] AlignedBox seen_from_outside(const Pose& pose) const {
    const Vector3 centre = pose * middle();
    const Vector3 out = product(pose.rotation.cwiseAbs(), half());
    return {centre - out, centre + out};
  }
  [[nodiscard]] bool holds(const Vector3& point) const {
    return (point.array() >= low.array()).all() && (point.array() <= high.array()).all();
  }
  /// The distance between two boxes, 0 when they overlap.
  [[nodiscard]] double gap_to(const AlignedBox& other) const {
    return (low - other.high).cwiseMax(other.low - high).cwiseMax(0.0).norm();
  }
};

/// Built once over a list of boxes, split at the median of the longest side.
class BoxTree {
 public:
  struct TreeNode {
    AlignedBox box;
    int begin = 0;  ///< its items are order()[begin] to order()[end - 1]
    int end = 0;
    int right = -1;  ///< the left one comes next in the list; a leaf has -1
  };

  BoxTree() = default;
  /// Leaves hold up to `leaf` items.
  explicit BoxTree(const std::vector<AlignedBox>& boxes, int leaf = 1);

  /// The root first; empty for an empty list.
  [[nodiscard]] std::span<const TreeNode> nodes() const { return nodes_; }
  [[nodiscard]] std::span<const int> order() const { return order_; }
  [[nodiscard]] const TreeNode& node(int index) const {
    return nodes_[static_cast<std::size_t>(index)];
  }
  /// Where things were put in the tree's order; from then on each item is its own place in it.
  void forget_order();

  /// Calls `visit(index)` for each item whose leaf is within `reach()` of `box`, those of nearer
  /// nodes first. `reach` is asked again at every step, so it may shrink while the search runs;
  /// `visit` returns false to end the search. Allocates nothing.
  template <class Reach, class Visit>
  void for_each_near(const AlignedBox& box, Reach reach, Visit visit) const {
    if (nodes_.empty()) return;
    struct Waiting {
      int node;
      double gap;
    };
    std::array<Waiting, 64> stack;  // the tree is balanced, so its depth is log2 of the count
    std::size_t depth = 0;
    stack[depth++] = {0, nodes_.front().box.gap_to(box)};
    while (depth > 0) {
      const Waiting next = stack[--depth];
      if (next.gap > reach()) continue;
      const TreeNode& here = node(next.node);
      if (here.right < 0) {
        for (int i = here.begin; i < here.end; ++i)
          if (!visit(order_[static_cast<std::size_t>(i)])) return;
        continue;
      }
      const Waiting left = {next.node + 1, node(next.node + 1).box.gap_to(box)};
      const Waiting right = {here.right, node(here.right).box.gap_to(box)};
      const bool left_first = left.gap <= right.gap;
      stack[depth++] = left_first ? right : left;
      stack[depth++] = left_first ? left : right;
    }
  }

 private:
  int build(const std::vector<AlignedBox>& boxes, int begin, int end, int leaf);
  std::vector<TreeNode> nodes_;
  std::vector<int> order_;
};

}  // namespace er
