#include "elbowroom/collision/checked_pairs.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

const Link& link_of(const Arm& arm, int index) {
  return arm.links()[static_cast<std::size_t>(index)];
}

// The last link that carries both, which may be one of the two.
int shared_link(const Arm& arm, int a, int b) {
  // A link stands after its parent in the list.
  while (a != b) {
    int& later = a > b ? a : b;
    later = link_of(arm, later).parent_index;
  }
  return a;
}

double across(const Vector3& v, const Vector3& axis) { return (v - v.dot(axis) * axis).norm(); }

// One joint on the way from a ball down to the base, and a bound on how far any point of the ball
// moves per unit of the posture entry that moves it.
struct JointLever {
  int link = 0;
  double lever = 0.0;
};

// Bounds |distance of any point of a ball fixed in a link from each joint's axis|. The first
// stretch after the joint is fixed in the joint's own link, so only what lies across the axis
// counts; every later stretch may come to point any way and counts whole.
std::vector<JointLever> joint_levers(const Arm& arm, int link, const Vector3& centre,
                                     double radius) {
  std::vector<JointLever> levers;
  // Chain of stretches from the ball down: each is fixed in `link`, as seen from its frame.
  double beyond = 0.0;       // sum of all stretches further out than `stretch`
  Vector3 stretch = centre;  // fixed in the frame of `link`
  double slide = radius;     // extra length, in any direction
  for (; link >= 0; link = link_of(arm, link).parent_index) {
    const Link& here = link_of(arm, link);
    const Joint& joint = here.joint;
    const bool slides = joint.kind == JointKind::prismatic;
    if (here.posture_index >= 0)
      levers.push_back({link, std::abs(here.posture_ratio) *
                                  (slides ? 1.0 : across(stretch, joint.axis) + slide + beyond)});
    if (joint.kind == JointKind::fixed) {
      // Nothing turns here: the stretch simply continues in the parent's frame.
      stretch = joint.origin * stretch;
      continue;
    }
    beyond += stretch.norm();
    stretch = joint.origin.position;
    slide += arm.furthest_slide(link);
  }
  return levers;
}

Posture lever_of(const Arm& arm, const std::vector<JointLever>& joints) {
  Posture lever = Posture::Zero(arm.dof());
  for (const JointLever& joint : joints)
    lever[link_of(arm, joint.link).posture_index] += joint.lever;
  return lever;
}

// How two parts of one arm move relative to each other: joints that carry both move the two alike
// and do not count.
Posture relative_lever(const Arm& arm, const std::vector<JointLever>& a,
                       const std::vector<JointLever>& b) {
  Posture lever = Posture::Zero(arm.dof());
  const auto add_unless_in = [&](const std::vector<JointLever>& own,
                                 const std::vector<JointLever>& other) {
    for (const JointLever& joint : own)
      if (std::none_of(other.begin(), other.end(),
                       [&](const JointLever& o) { return o.link == joint.link; }))
        lever[link_of(arm, joint.link).posture_index] += joint.lever;
  };
  add_unless_in(a, b);
  add_unless_in(b, a);
  return lever;
}

int add_body(CheckedPairs& pairs, std::string name) {
  pairs.bodies.push_back(std::move(name));
  return static_cast<int>(pairs.bodies.size()) - 1;
}

void add_standing(CheckedPairs& pairs, int body, const std::vector<Part>& parts, const Pose& at,
                  bool may_move = false) {
  for (const Part& part : parts)
    if (part.collides)
      pairs.standing.push_back(
          {.shape = part.shape, .pose = at * part.at, .body = body, .may_move = may_move});
}

void add_zone(CheckedPairs& pairs, int body, const Zone& zone) {
  for (const Part& part : zone.parts)
    (zone.caps_speed() ? pairs.slow : pairs.standing)
        .push_back({.shape = part.shape,
                    .pose = zone.at * part.at,
                    .body = body,
                    .is_zone = true,
                    .margin = zone.distance,
                    .speed = zone.speed});
}

void add_self_pairs(CheckedPairs& pairs, const Cell& cell, const Arm& arm,
                    const std::vector<std::vector<JointLever>>& levers) {
  const int count = static_cast<int>(pairs.moving.size());
  for (int i = 0; i < count; ++i) {
    for (int k = i + 1; k < count; ++k) {
      const MovingPart& a = pairs.moving[static_cast<std::size_t>(i)];
      const MovingPart& b = pairs.moving[static_cast<std::size_t>(k)];
      if (are_joined(arm, a.link, b.link)) continue;
      if (cell.contact_is_meant(link_name(arm, a.link), link_name(arm, b.link))) continue;
      const Posture lever = relative_lever(arm, levers[static_cast<std::size_t>(i)],
                                           levers[static_cast<std::size_t>(k)]);
      const int shared = shared_link(arm, pairs.moving[static_cast<std::size_t>(i)].link,
                                     pairs.moving[static_cast<std::size_t>(k)].link);
      pairs.self.push_back({i, k, shared, lever});
    }
  }
}

bool has_solids(const CheckedPairs& pairs) {
  const auto is_solid = [](const auto& part) { return is_solid_mesh(part.shape); };
  return std::any_of(pairs.moving.begin(), pairs.moving.end(), is_solid) ||
         std::any_of(pairs.standing.begin(), pairs.standing.end(), is_solid);
}

}  // namespace

int rigid_group(const Arm& arm, int link) {
  while (link_of(arm, link).posture_index < 0 && link_of(arm, link).parent_index >= 0)
    link = link_of(arm, link).parent_index;
  return link;
}

bool are_joined(const Arm& arm, int a, int b) {
  if (link_of(arm, a).arm != link_of(arm, b).arm) return false;
  const int group_a = rigid_group(arm, a);
  const int group_b = rigid_group(arm, b);
  if (group_a == group_b) return true;
  const auto hangs_on = [&](int child, int parent) {
    const int up = link_of(arm, child).parent_index;
    return up >= 0 && rigid_group(arm, up) == parent;
  };
  // A piece touches the fingers that hang on the palm it is fixed to; the wrist before it never.
  return (hangs_on(group_a, group_b) && !link_of(arm, a).held) ||
         (hangs_on(group_b, group_a) && !link_of(arm, b).held);
}

Posture lever_of_point(const Arm& arm, int link, const Vector3& point) {
  return lever_of(arm, joint_levers(arm, link, point, 0.0));
}

double most_closing(const CheckedPairs& pairs, const Posture& travel) {
  double most = 0.0;
  for (const MovingPart& part : pairs.moving) most = std::max(most, part.lever.dot(travel));
  for (const SelfPair& pair : pairs.self) most = std::max(most, pair.lever.dot(travel));
  return most;
}

CheckedPairs find_checked_pairs(const Cell& cell, const Arm& arm,
                                const std::vector<OtherArm>& others) {
  CheckedPairs pairs;
  std::vector<std::vector<JointLever>> all_levers;
  const int links = static_cast<int>(arm.links().size());
  for (int l = 0; l < links; ++l) {
    const int body = add_body(pairs, link_name(arm, l));
    for (const Part& part : link_of(arm, l).parts) {
      if (!part.collides) continue;
      MovingPart moving{part.shape, part.at, l, body, bounding_radius(part.shape), {}};
      all_levers.push_back(joint_levers(arm, l, part.at.position, moving.radius));
      moving.lever = lever_of(arm, all_levers.back());
      pairs.moving.push_back(std::move(moving));
    }
    for (int k = 0; k < l; ++k)
      if (are_joined(arm, k, l)) pairs.joined_links.emplace_back(k, l);
  }
  for (const Body& body : cell.fixtures())
    add_standing(pairs, add_body(pairs, body.name), body.parts, body.at);
  for (const Body& body : cell.pieces())
    add_standing(pairs, add_body(pairs, body.name), body.parts, body.at, true);
  for (const Zone& zone : cell.zones()) add_zone(pairs, add_body(pairs, zone.name), zone);
  for (const Arm& other : cell.arms()) {
    if (other.name() == arm.name()) continue;
    Posture posture = other.home_or_zero();
    for (const OtherArm& given : others)
      if (given.name == other.name()) posture = given.posture;
    const auto poses = link_poses(other, posture);
    for (std::size_t l = 0; l < poses.size(); ++l)
      add_standing(pairs, add_body(pairs, link_name(other, static_cast<int>(l))),
                   other.links()[l].parts, poses[l], true);
  }
  std::vector<AlignedBox> boxes;
  for (const StandingPart& part : pairs.standing) {
    AlignedBox box = aligned_box(part.shape, part.pose);
    box.low.array() -= part.margin;
    box.high.array() += part.margin;
    boxes.push_back(box);
  }
  pairs.standing_tree = BoxTree(boxes);
  for (const MovingPart& part : pairs.moving) {
    std::vector<bool> meant(pairs.bodies.size());
    for (std::size_t b = 0; b < meant.size(); ++b)
      meant[b] =
          cell.contact_is_meant(pairs.bodies[static_cast<std::size_t>(part.body)], pairs.bodies[b]);
    pairs.meant.push_back(std::move(meant));
  }
  add_self_pairs(pairs, cell, arm, all_levers);
  pairs.has_solids = has_solids(pairs);
  return pairs;
}

}  // namespace er
