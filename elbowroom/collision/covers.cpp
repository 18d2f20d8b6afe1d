#include "elbowroom/collision/covers.hpp"

#include <cmath>

#include "elbowroom/base/float_rounding.hpp"

namespace er {
namespace {

constexpr double kHeldStep = 0.1;  // m

// How far any ball of the arm can get from its mount, along any axis. What it holds counts in whole
// steps, so that maps can be used again while it carries one thing after the other.
double reach_of(const Arm& arm, const CheckedPairs& pairs) {
  double furthest = 0.0;
  double with_held = 0.0;
  for (const MovingPart& part : pairs.moving) {
    double away = part.at.position.norm() + 2.0 * part.radius;
    for (int link = part.link; link >= 0;
         link = arm.links()[static_cast<std::size_t>(link)].parent_index)
      away += arm.links()[static_cast<std::size_t>(link)].joint.origin.position.norm() +
              arm.furthest_slide(link);
    with_held = std::max(with_held, away);
    if (!arm.links()[static_cast<std::size_t>(part.link)].held) furthest = std::max(furthest, away);
  }
  furthest = std::max(furthest, 0.1);
  return furthest + kHeldStep * std::ceil(std::max(with_held - furthest, 0.0) / kHeldStep);
}

// What some part of the arm may touch that moves.
std::vector<bool> touchable(const CheckedPairs& pairs, const LaneTree& tree) {
  std::vector<bool> out(pairs.standing.size());
  for (std::size_t part = 0; part < pairs.moving.size(); ++part) {
    if (tree.links[static_cast<std::size_t>(pairs.moving[part].link)].joint < 0) continue;
    for (std::size_t s = 0; s < out.size(); ++s)
      out[s] = out[s] || pairs.meant[part][static_cast<std::size_t>(pairs.standing[s].body)];
  }
  return out;
}

void add_balls(Covers& covers, const Arm& arm, const MovingPart& part,
               std::vector<Posture>& levers) {
  const LaneTree::Carried& link = covers.tree.links[static_cast<std::size_t>(part.link)];
  const Pose at = link.at * part.at;
  const int first = static_cast<int>(covers.x.size());
  for (const CoverBall& ball : cover_of(part.shape)) {
    const Vector3 centre = at * ball.centre;
    covers.x.push_back(static_cast<float>(centre.x()));
    covers.y.push_back(static_cast<float>(centre.y()));
    covers.z.push_back(static_cast<float>(centre.z()));
    covers.radius.push_back(rounded_up_to_float(ball.radius));
    covers.inside.push_back(-rounded_up_to_float(-ball.inside));
    covers.next.push_back(first + ball.next);
    levers.push_back(lever_of_point(arm, part.link, part.at * ball.centre));
  }
  covers.parts.push_back({link.joint, first, static_cast<int>(covers.x.size())});
}

Covers::Levers by_entries(const std::vector<Posture>& levers, int entries) {
  Covers::Levers out{entries, (levers.size() + 7) / 8 * 8, {}, Posture::Zero(entries)};
  for (const Posture& lever : levers) out.most = out.most.cwiseMax(lever);
  out.values.resize(static_cast<std::size_t>(entries) * out.row);
  for (int e = 0; e < entries; ++e)
    for (std::size_t i = 0; i < levers.size(); ++i)
      out.values[static_cast<std::size_t>(e) * out.row + i] = rounded_up_to_float(levers[i][e]);
  return out;
}

LaneTree about(LaneTree tree, const Vector3& centre) {
  for (LaneTree::Joint& joint : tree.joints) joint.start.position -= centre;
  for (LaneTree::Carried& link : tree.links)
    if (link.joint < 0) link.at.position -= centre;
  return tree;
}

}  // namespace

Covers covers_of(const Arm& arm, const CheckedPairs& pairs, MapShelf& shelf) {
  const Vector3 centre = arm.mount().position;
  const double reach = reach_of(arm, pairs);
  LaneTree tree = lane_tree(arm);
  const std::vector<bool> may_be_touched = touchable(pairs, tree);
  std::vector<int> listed;
  for (std::size_t s = 0; s < may_be_touched.size(); ++s)
    if (may_be_touched[s]) listed.push_back(static_cast<int>(s));
  LaneObstacles standing = lane_obstacles(pairs.standing, centre, reach);
  std::vector<int> fixed;
  std::vector<int> movable;
  for (std::size_t i = 0; i < standing.items.size(); ++i) {
    const auto part = static_cast<std::size_t>(standing.items[i].standing);
    if (!may_be_touched[part])
      (pairs.standing[part].may_move ? movable : fixed).push_back(static_cast<int>(i));
  }
  SpaceMap map(*shelf.map_of(reach, standing, fixed), standing, movable);
  Covers covers{.centre = centre,
                .margin = rounded_up_to_float(kFloatRounding * std::sqrt(3.0) * reach),
                .tree = about(std::move(tree), centre),
                .standing = std::move(standing),
                .map = std::move(map),
                .listed = whole_obstacles(pairs.standing, listed, centre, reach)};
  std::vector<Posture> levers;
  for (const MovingPart& part : pairs.moving) add_balls(covers, arm, part, levers);
  covers.ball_levers = by_entries(levers, arm.dof());
  levers.clear();
  for (const SelfPair& pair : pairs.self) {
    levers.push_back(pair.lever);
    const auto root = [&](int part) {
      return static_cast<std::size_t>(covers.parts[static_cast<std::size_t>(part)].first);
    };
    covers.pairs.push_back({pair.first, pair.second,
                            covers.radius[root(pair.first)] + covers.radius[root(pair.second)] +
                                2.0F * covers.margin});
  }
  covers.pair_levers = by_entries(levers, arm.dof());
  return covers;
}

}  // namespace er
