#include "elbowroom/rehearse/cell_parts.hpp"

#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

// How many moving joints lie on the way from each of two links down to their common ancestor.
std::pair<int, int> joints_below(const Arm& arm, int a, int b) {
  std::pair<int, int> joints{0, 0};
  while (a != b) {
    const bool first = a > b;  // a parent always has the smaller index
    int& deeper = first ? a : b;
    const Link& link = arm.links()[static_cast<std::size_t>(deeper)];
    if (link.joint.kind != JointKind::fixed) ++(first ? joints.first : joints.second);
    deeper = link.parent_index;
  }
  return joints;
}

// Neighbours over a joint. A piece in the hand is a neighbour of fingers, not of the wrist; two
// arms are no neighbours.
bool never_checked(const Arm& arm, int a, int b) {
  const auto of = [&](int link) { return arm.links()[static_cast<std::size_t>(link)].arm; };
  if (of(a) != of(b)) return false;
  const auto [from_a, from_b] = joints_below(arm, a, b);
  if (from_a + from_b == 0) return true;
  const auto held = [&](int link) { return arm.links()[static_cast<std::size_t>(link)].held; };
  return from_a + from_b == 1 && !(from_a == 1 && held(a)) && !(from_b == 1 && held(b));
}

}  // namespace

CellParts parts_of(const Cell& cell, const Arm& arm) {
  CellParts out;
  const auto add = [&](const std::vector<Part>& parts, const Pose& at, int link,
                       const std::string& name, double margin = 0.0) {
    int number = 0;
    for (const Part& part : parts)
      if (part.collides)
        out.items.push_back({part.shape, at * part.at, link, bounding_radius(part.shape), margin,
                             name, number++, -1, -1, part.at});
  };
  for (std::size_t l = 0; l < arm.links().size(); ++l)
    add(arm.links()[l].parts, {}, static_cast<int>(l), link_name(arm, static_cast<int>(l)));
  for (const Body& body : cell.fixtures()) add(body.parts, body.at, -1, body.name);
  for (const Body& body : cell.pieces()) add(body.parts, body.at, -1, body.name);
  for (const Zone& zone : cell.zones())
    if (!zone.caps_speed()) add(zone.parts, zone.at, -1, zone.name, zone.distance);
  for (std::size_t a = 0; a < cell.arms().size(); ++a) {
    const Arm& other = cell.arms()[a];
    if (other.name() == arm.name()) continue;
    const auto poses = link_poses(other, other.home_or_zero());
    for (std::size_t l = 0; l < poses.size(); ++l) {
      const std::size_t before = out.items.size();
      add(other.links()[l].parts, poses[l], -1, link_name(other, static_cast<int>(l)));
      for (std::size_t i = before; i < out.items.size(); ++i) {
        out.items[i].other = static_cast<int>(a);
        out.items[i].other_link = static_cast<int>(l);
      }
    }
  }
  for (std::size_t i = 0; i < out.items.size(); ++i) {
    for (std::size_t k = i + 1; k < out.items.size(); ++k) {
      const int a = out.items[i].link;
      const int b = out.items[k].link;
      if (a < 0 && b < 0) continue;
      if (a >= 0 && b >= 0 && never_checked(arm, a, b)) continue;
      if (cell.contact_is_meant(out.items[i].body, out.items[k].body)) continue;
      out.pairs.emplace_back(i, k);
    }
  }
  return out;
}

}  // namespace er
