#include "elbowroom/collision/elements.hpp"

namespace er {
namespace {

// Some point of an element.
Vector3 point_of(const CoreShape& core) { return core.support(Vector3::UnitX()); }

// Each branch that keeps clear of the surface is all inside or all outside.
bool holds_branch(const Elements& surface, const Mesh& solid, const Elements& of, int index) {
  const BoxTree::TreeNode& node = of.tree()->node(index);
  const Pose to_solid = surface.pose().inverse();
  const AlignedBox seen = node.box.seen_from_outside(to_solid * of.pose());
  if (seen.gap_to(solid.data->tree.node(0).box) > 0.0) return false;
  const auto holds = [&](int element) {
    return encloses(*solid.data, to_solid * point_of(of.core(element)));
  };
  if (node.right < 0) {
    for (int i = node.begin; i < node.end; ++i)
      if (holds(i)) return true;
    return false;
  }
  const Shape box = Box{2.0 * node.box.half()};
  if (are_apart(0.0, {box, of.pose() * Pose::at(node.box.middle())}, surface))
    return holds(node.begin);
  return holds_branch(surface, solid, of, index + 1) ||
         holds_branch(surface, solid, of, node.right);
}

}  // namespace

bool are_apart(double gap, const Elements& a, const Elements& b) {
  bool apart = true;
  const auto look = [&](int i, int k) {
    apart = further_apart_than(gap, a.core(i), b.core(k));
    return apart;
  };
  NearElements(
      a, b, [&] { return gap; }, look)
      .run();
  return apart;
}

bool is_one_in_the_other(const Elements& a, const Elements& b) {
  return holds_some_of(a, b) || holds_some_of(b, a);
}

bool holds_some_of(const Elements& a, const Elements& b) {
  if (!is_solid_mesh(a.shape()) || !is_bounded(b.shape())) return false;
  const Mesh& solid = std::get<Mesh>(a.shape());
  if (b.tree() != nullptr) return holds_branch(a, solid, b, 0);
  return encloses(*solid.data, a.pose().inverse() * point_of(b.core(0)));
}

}  // namespace er
