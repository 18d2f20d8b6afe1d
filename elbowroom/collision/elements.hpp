// What shapes are made of: a mesh of triangles, a cloud of balls, all others of themselves. Two
// shapes are looked at by those of their elements that are near each other, found down their trees.
#pragma once

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
      return {a.cwiseMin(b).cwiseMin(c), a.cwiseMax(b).cwiseMax(c)};
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
      : a_(a), b_(b), reach_(reach), visit_(visit), a_in_b_(b.pose().inverse() * a.pose()) {}

  void run() {
    if (const auto* plane = std::get_if<HalfSpace>(&b_.shape()); plane != nullptr)
      return void(over_plane(a_, b_.pose(), [&](int element) { return visit_(element, 0); }));
    if (const auto* plane = std::get_if<HalfSpace>(&a_.shape()); plane != nullptr)
      return void(over_plane(b_, a_.pose(), [&](int element) { return visit_(0, element); }));
    look(a_.tree() != nullptr ? 0 : kWhole, b_.tree() != nullptr ? 0 : kWhole);
  }

 private:
  static constexpr int kWhole = -1;

  // In the frame of b.
  [[nodiscard]] AlignedBox box_a(int node) const {
    return node == kWhole ? aligned_box(a_.shape(), a_in_b_)
                          : a_.tree()->node(node).box.seen_from_outside(a_in_b_);
  }
  [[nodiscard]] AlignedBox box_b(int node) const {
    return node == kWhole ? own_box(b_.shape()) : b_.tree()->node(node).box;
  }
  [[nodiscard]] static bool is_leaf(const Elements& of, int node) {
    return node == kWhole || of.tree()->node(node).right < 0;
  }

  // False to end the search.
  bool look(int node_a, int node_b) {
    const AlignedBox a = box_a(node_a);
    const AlignedBox b = box_b(node_b);
    if (a.gap_to(b) > reach_()) return true;
    const bool a_ends = is_leaf(a_, node_a);
    const bool b_ends = is_leaf(b_, node_b);
    if (a_ends && b_ends) return look_at_leaves(node_a, node_b, a, b);
    if (b_ends || (!a_ends && a.half().squaredNorm() > b.half().squaredNorm())) {
      const int left = node_a + 1;
      const int right = a_.tree()->node(node_a).right;
      const bool left_first = box_a(left).gap_to(b) <= box_a(right).gap_to(b);
      return look(left_first ? left : right, node_b) && look(left_first ? right : left, node_b);
    }
    const int left = node_b + 1;
    const int right = b_.tree()->node(node_b).right;
    const bool left_first = box_b(left).gap_to(a) <= box_b(right).gap_to(a);
    return look(node_a, left_first ? left : right) && look(node_a, left_first ? right : left);
  }

  bool look_at_leaves(int node_a, int node_b, const AlignedBox& all_a, const AlignedBox& all_b) {
    const auto range = [](const Elements& of, int node) {
      return node == kWhole ? std::pair(0, 1)
                            : std::pair(of.tree()->node(node).begin, of.tree()->node(node).end);
    };
    const auto [a_begin, a_end] = range(a_, node_a);
    const auto [b_begin, b_end] = range(b_, node_b);
    for (int i = a_begin; i < a_end; ++i) {
      const AlignedBox a = node_a == kWhole ? all_a : a_.box(i).seen_from_outside(a_in_b_);
      if (a.gap_to(all_b) > reach_()) continue;
      for (int k = b_begin; k < b_end; ++k) {
        if (node_b != kWhole && b_.box(k).gap_to(a) > reach_()) continue;
        if (!visit_(i, k)) return false;
      }
    }
    return true;
  }

  // Elements within reach of what is not above z = 0 of a frame.
  template <class VisitOne>
  bool over_plane(const Elements& of, const Pose& plane, VisitOne visit) const {
    if (of.tree() == nullptr) return visit(0);
    const Vector3 normal = in_axes_of(of.pose().rotation, plane.rotation.col(2));
    const double offset = plane.rotation.col(2).dot(plane.position - of.pose().position);
    const auto height = [&](const AlignedBox& box) {
      return normal.dot(box.middle()) - normal.cwiseAbs().dot(box.half()) - offset;
    };
    return over_plane_from(of, 0, height, visit);
  }
  template <class Height, class VisitOne>
  bool over_plane_from(const Elements& of, int index, const Height& height,
                       const VisitOne& visit) const {
    const BoxTree::TreeNode& node = of.tree()->node(index);
    if (height(node.box) > reach_()) return true;
    if (node.right < 0) {
      for (int i = node.begin; i < node.end; ++i)
        if (height(of.box(i)) <= reach_() && !visit(i)) return false;
      return true;
    }
    const int left = index + 1;
    const bool left_first =
        height(of.tree()->node(left).box) <= height(of.tree()->node(node.right).box);
    return over_plane_from(of, left_first ? left : node.right, height, visit) &&
           over_plane_from(of, left_first ? node.right : left, height, visit);
  }

  const Elements& a_;
  const Elements& b_;
  Reach reach_;
  Visit visit_;
  Pose a_in_b_;
};

/// Whether any of b, none of which comes through the surface of the solid mesh a, is inside it.
/// False where a is no mesh, or a skin.
bool holds_some_of(const Elements& a, const Elements& b);

}  // namespace er
