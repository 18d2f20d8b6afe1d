// What shapes are made of: a mesh of triangles, a cloud of balls, all others of themselves. Two
// shapes are looked at by those of their elements that are near each other, found down their trees.
#pragma once

#include <algorithm>

#include "elbowroom/collision/distance.hpp"
#include "elbowroom/collision/point_distance.hpp"
#include "elbowroom/model/cloud.hpp"
#include "elbowroom/model/core_shape.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {

/// A shape where it is, as elements under a tree of boxes. The shape must outlive this.
class Elements {
 public:
  Elements(const Shape& shape, const Pose& pose)
      : mesh_(std::get_if<Mesh>(&shape)),
        cloud_(std::get_if<Cloud>(&shape)),
        shape_(shape),
        pose_(pose) {}

  Elements(Shape&& shape, const Pose& pose) = delete;  // it would be gone

  [[nodiscard]] const Shape& shape() const { return shape_; }
  [[nodiscard]] const Pose& pose() const { return pose_; }
  /// Null for a shape that is its only element.
  [[nodiscard]] const BoxTree* tree() const {
    if (mesh_ != nullptr) return &mesh_->data->tree;
    return cloud_ != nullptr ? &cloud_->data->tree : nullptr;
  }
  [[nodiscard]] int size() const {
    if (mesh_ != nullptr) return static_cast<int>(mesh_->data->faces.size());
    return cloud_ != nullptr ? static_cast<int>(cloud_->data->points.size()) : 1;
  }
  /// In the world.
  [[nodiscard]] CoreShape core(int element) const {
    if (mesh_ != nullptr) return CoreShape::triangle_of(*mesh_->data, element, pose_);
    if (cloud_ != nullptr) return CoreShape::ball_of(*cloud_->data, element, pose_);
    return {shape_, pose_};
  }
  /// In the shape's own frame.
  [[nodiscard]] AlignedBox box(int element) const {
    if (mesh_ != nullptr) {
      const auto [a, b, c] = mesh_->data->triangle(element);
      const double thickness = mesh_->data->thickness;
      return {a.cwiseMin(b).cwiseMin(c).array() - thickness,
              a.cwiseMax(b).cwiseMax(c).array() + thickness};
    }
    if (cloud_ != nullptr) {
      const Vector3& point = cloud_->data->points[static_cast<std::size_t>(element)];
      return {point.array() - cloud_->data->radius, point.array() + cloud_->data->radius};
    }
    return own_box(shape_);
  }

 private:
  const Mesh* mesh_;
  const Cloud* cloud_;
  const Shape& shape_;
  Pose pose_;
};

/// Calls `visit(element of a, element of b)` for all that may be within `reach()` of each other,
/// the nearest branches first. `reach` is asked again at every step; `visit` returns false to end
/// the search. Allocates nothing.
template <class Reach, class Visit>
class NearElements {
 public:
  NearElements(const Elements& a, const Elements& b, Reach reach, Visit visit)
      : a_(a), b_(b), reach_(reach), visit_(visit) {}

  void run() {
    if (a_.tree() != nullptr && b_.tree() != nullptr) {
      a_in_b_ = b_.pose().inverse() * a_.pose();
      look_between(0, 0);
    } else if (a_.tree() != nullptr) {
      OneAgainst(b_, a_, reach_).look(0, [&](int element) { return visit_(element, 0); });
    } else if (b_.tree() != nullptr) {
      OneAgainst(a_, b_, reach_).look(0, [&](int element) { return visit_(0, element); });
    } else {
      visit_(0, 0);
    }
  }

 private:
  // A convex shape and the elements of another.
  class OneAgainst {
   public:
    OneAgainst(const Elements& one, const Elements& many, Reach reach)
        : shape_(one.shape()),
          many_(many),
          reach_(reach),
          many_in_one_(one.pose().inverse() * many.pose()),
          box_(aligned_box(one.shape(), many_in_one_.inverse())) {}

    // False to end the search.
    template <class VisitOne>
    bool look(int index, const VisitOne& visit) {
      const BoxTree& tree = *many_.tree();
      const BoxTree::TreeNode& node = tree.node(index);
      if (node.right < 0) {
        for (int i = node.begin; i < node.end; ++i)
          if (bound_to(many_.box(i)) <= reach_() && !visit(i)) return false;
        return true;
      }
      const int left = index + 1;
      const double to_left = bound_to(tree.node(left).box);
      const double to_right = bound_to(tree.node(node.right).box);
      const bool left_first = to_left <= to_right;
      const auto next = [&](bool is_left) {
        return (is_left ? to_left : to_right) > reach_() ||
               look(is_left ? left : node.right, visit);
      };
      return next(left_first) && next(!left_first);
    }

   private:
    // No less than this: by balls about boxes, and boxes about a long thin shape, which each say
    // little alone.
    [[nodiscard]] double bound_to(const AlignedBox& box) const {
      const double by_ball =
          point_distance(shape_, many_in_one_ * box.middle()) - box.half().norm();
      return std::max(by_ball, box_.gap_to(box));
    }

    const Shape& shape_;
    const Elements& many_;
    Reach reach_;
    Pose many_in_one_;
    AlignedBox box_;  // of the one, along the axes of the many
  };

  // Both have trees; in the frame of b.
  bool look_between(int node_a, int node_b) {
    const BoxTree::TreeNode& a = a_.tree()->node(node_a);
    const BoxTree::TreeNode& b = b_.tree()->node(node_b);
    const AlignedBox box_a = a.box.seen_from_outside(a_in_b_);
    if (box_a.gap_to(b.box) > reach_()) return true;
    if (a.right < 0 && b.right < 0) return look_at_leaves(a, b);
    const bool cuts_a =
        b.right < 0 || (a.right >= 0 && a.box.half().squaredNorm() > b.box.half().squaredNorm());
    const int left = (cuts_a ? node_a : node_b) + 1;
    const int right = cuts_a ? a.right : b.right;
    const auto gap = [&](int child) {
      return cuts_a ? a_.tree()->node(child).box.seen_from_outside(a_in_b_).gap_to(b.box)
                    : b_.tree()->node(child).box.gap_to(box_a);
    };
    const auto look = [&](int child) {
      return cuts_a ? look_between(child, node_b) : look_between(node_a, child);
    };
    const bool left_first = gap(left) <= gap(right);
    return look(left_first ? left : right) && look(left_first ? right : left);
  }

  bool look_at_leaves(const BoxTree::TreeNode& a, const BoxTree::TreeNode& b) {
    for (int i = a.begin; i < a.end; ++i) {
      const AlignedBox box = a_.box(i).seen_from_outside(a_in_b_);
      if (box.gap_to(b.box) > reach_()) continue;
      for (int k = b.begin; k < b.end; ++k)
        if (b_.box(k).gap_to(box) <= reach_() && !visit_(i, k)) return false;
    }
    return true;
  }

  const Elements& a_;
  const Elements& b_;
  Reach reach_;
  Visit visit_;
  Pose a_in_b_;
};

/// True when all elements are proved to be further apart than `gap` (>= 0). Allocates nothing.
bool are_apart(double gap, const Elements& a, const Elements& b);

/// Whether any of one, none of which comes through the surface of the other, is inside it because
/// that is a solid mesh. Allocates nothing.
bool is_one_in_the_other(const Elements& a, const Elements& b);
/// The same of b in a alone.
bool holds_some_of(const Elements& a, const Elements& b);

}  // namespace er
