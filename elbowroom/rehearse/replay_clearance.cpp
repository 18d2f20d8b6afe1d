#include "elbowroom/rehearse/replay_clearance.hpp"

#include "elbowroom/collision/distance.hpp"

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

// Neighbours over a joint. A piece in the hand is a neighbour of fingers, not of the wrist.
bool never_checked(const Arm& arm, int a, int b) {
  const auto [from_a, from_b] = joints_below(arm, a, b);
  if (from_a + from_b == 0) return true;
  const auto held = [&](int link) { return arm.links()[static_cast<std::size_t>(link)].held; };
  return from_a + from_b == 1 && !(from_a == 1 && held(a)) && !(from_b == 1 && held(b));
}

}  // namespace

ReplayClearance::ReplayClearance(const Cell& cell, const Arm& arm)
    : arm_(arm), links_(arm.links().size()) {
  const auto add = [&](const std::vector<Part>& parts, const Pose& at, int link,
                       const std::string& name, double margin = 0.0) {
    names_.push_back(name);
    for (const Part& part : parts)
      if (part.collides)
        items_.push_back(
            {part.shape, at * part.at, link, bounding_radius(part.shape), &names_.back(), margin});
  };
  std::size_t count =
      arm.links().size() + cell.fixtures().size() + cell.pieces().size() + cell.zones().size();
  for (const Arm& other : cell.arms()) count += other.links().size();
  names_.reserve(count);  // items point into it
  for (std::size_t l = 0; l < arm.links().size(); ++l)
    add(arm.links()[l].parts, {}, static_cast<int>(l), link_name(arm, static_cast<int>(l)));
  for (const Body& body : cell.fixtures()) add(body.parts, body.at, -1, body.name);
  for (const Body& body : cell.pieces()) add(body.parts, body.at, -1, body.name);
  for (const Zone& zone : cell.zones())
    if (!zone.caps_speed()) add(zone.parts, zone.at, -1, zone.name, zone.distance);
  for (const Arm& other : cell.arms()) {
    if (other.name() == arm.name()) continue;
    const auto poses = link_poses(other, other.home_or_zero());
    for (std::size_t l = 0; l < poses.size(); ++l)
      add(other.links()[l].parts, poses[l], -1, link_name(other, static_cast<int>(l)));
  }
  poses_.resize(items_.size());
  for (std::size_t i = 0; i < items_.size(); ++i) {
    for (std::size_t k = i + 1; k < items_.size(); ++k) {
      const int a = items_[i].link;
      const int b = items_[k].link;
      if (a < 0 && b < 0) continue;
      if (a >= 0 && b >= 0 && never_checked(arm, a, b)) continue;
      if (cell.contact_is_meant(*items_[i].name, *items_[k].name)) continue;
      pairs_.emplace_back(i, k);
    }
    poses_[i] = items_[i].at;
  }
}

ReplayClearance::Result ReplayClearance::nearest(const PostureRef& posture, double below) {
  link_poses(arm_, posture, links_);
  for (std::size_t i = 0; i < items_.size(); ++i)
    if (items_[i].link >= 0)
      poses_[i] = links_[static_cast<std::size_t>(items_[i].link)] * items_[i].at;
  Result best{below, {}};
  std::pair<std::size_t, std::size_t> pair{0, 0};
  for (const auto& [i, k] : pairs_) {
    const double centres = (poses_[i].position - poses_[k].position).norm();
    const double margin = items_[i].margin + items_[k].margin;
    if (centres - items_[i].radius - items_[k].radius - margin >= best.distance) continue;
    const double d =
        distance(items_[i].shape, poses_[i], items_[k].shape, poses_[k]).distance - margin;
    if (d >= best.distance) continue;
    best.distance = d;
    pair = {i, k};
  }
  if (best.distance < below)
    best.pair = *items_[pair.first].name + ", " + *items_[pair.second].name;
  return best;
}

}  // namespace er
