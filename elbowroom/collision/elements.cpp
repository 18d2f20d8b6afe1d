#include "elbowroom/collision/elements.hpp"

namespace er {
namespace {

// Some point of an element.
Vector3 point_of(const CoreShape& core) { return core.support(Vector3::UnitX()); }

// Each branch that keeps clear of the surface is all inside or all outside.
bool holds_branch(const Mesh& solid, const Pose& solid_pose, const Elements& of, int index) {
  const BoxTree::TreeNode& node = of.tree()->node(index);
  const Pose to_solid = solid_pose.inverse();
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
  if (is_clear_of_surface(Box{2.0 * node.box.half()}, of.pose() * Pose::at(node.box.middle()),
                          solid, solid_pose))
    return holds(node.begin);
  return holds_branch(solid, solid_pose, of, index + 1) ||
         holds_branch(solid, solid_pose, of, node.right);
}

}  // namespace

bool holds_some_of(const Elements& a, const Elements& b) {
  const auto* solid = std::get_if<Mesh>(&a.shape());
  if (solid == nullptr || solid->data->is_skin || !is_bounded(b.shape())) return false;
  if (b.tree() != nullptr) return holds_branch(*solid, a.pose(), b, 0);
  return encloses(*solid->data, a.pose().inverse() * point_of(b.core(0)));
}

}  // namespace er
