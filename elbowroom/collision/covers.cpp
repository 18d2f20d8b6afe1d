#include "elbowroom/collision/covers.hpp"

#include <cmath>

namespace er {
namespace {

constexpr double kUnit = 1.0 / (1 << 24);  // a rounding, relative
constexpr double kRoundings = 24.0;        // more than come together in one comparison

// Zero stays what it is: the next number would be one of those that slow a processor down.
float rounded_up(double value) {
  if (value == 0.0) return 0.0F;
  return std::nextafter(static_cast<float>(value), std::numeric_limits<float>::infinity());
}

// How far any ball of the arm can get from its mount, along any axis.
double reach_of(const Arm& arm, const CheckedPairs& pairs) {
  double furthest = 0.0;
  for (const MovingPart& part : pairs.moving) {
    double away = part.at.position.norm() + 2.0 * part.radius;
    for (int link = part.link; link >= 0;
         link = arm.links()[static_cast<std::size_t>(link)].parent_index)
      away += arm.links()[static_cast<std::size_t>(link)].joint.origin.position.norm() +
              arm.furthest_slide(link);
    furthest = std::max(furthest, away);
  }
  return std::max(furthest, 0.1);
}

// What some part of the arm may touch.
std::vector<bool> touchable(const CheckedPairs& pairs) {
  std::vector<bool> out(pairs.standing.size());
  for (std::size_t s = 0; s < out.size(); ++s)
    for (const std::vector<bool>& meant : pairs.meant)
      out[s] = out[s] || meant[static_cast<std::size_t>(pairs.standing[s].body)];
  return out;
}

SpaceMap map_of(const Vector3& centre, double reach, const CheckedPairs& pairs) {
  const std::vector<bool> listed = touchable(pairs);
  std::vector<const StandingPart*> parts;
  for (std::size_t s = 0; s < listed.size(); ++s)
    if (!listed[s]) parts.push_back(&pairs.standing[s]);
  return {centre, reach, parts};
}

// How far from `centre` anything of a part is at most.
double out_to(const StandingPart& part, const Vector3& centre) {
  return (part.pose.position - centre).norm() + bounding_radius(part.shape);
}

void put(const Vector3& v, float* to) {
  for (int i = 0; i < 3; ++i) to[i] = static_cast<float>(v[i]);
}

void add_obstacle(Covers& covers, const StandingPart& part) {
  using Kind = Covers::Obstacle::Kind;
  Covers::Obstacle out;
  for (int c = 0; c < 3; ++c) put(part.pose.rotation.col(c), out.rotation + 3 * c);
  put(part.pose.position - covers.centre, out.position);
  // With the rounding of a point seen from something large or far away.
  const double size = out_to(part, covers.centre) + covers.map.reach();
  out.rounding = rounded_up(kRoundings * kUnit * size);
  out.margin = rounded_up(part.margin + kRoundings * kUnit * size);
  if (const auto* box = std::get_if<Box>(&part.shape)) {
    put(0.5 * box->size, out.half);
  } else if (const auto* sphere = std::get_if<Sphere>(&part.shape)) {
    out.kind = Kind::capsule;
    out.radius = static_cast<float>(sphere->radius);
  } else if (const auto* cylinder = std::get_if<Cylinder>(&part.shape)) {
    out.kind = Kind::cylinder;
    out.radius = static_cast<float>(cylinder->radius);
    out.half[2] = static_cast<float>(0.5 * cylinder->length);
  } else if (const auto* capsule = std::get_if<Capsule>(&part.shape)) {
    out.kind = Kind::capsule;
    out.radius = static_cast<float>(capsule->radius);
    out.half[2] = static_cast<float>(0.5 * capsule->length);
  } else {
    const HullData& hull = *std::get<Hull>(part.shape).data;
    out.kind = Kind::hull;
    out.first_plane = static_cast<int>(covers.planes.size() / 4);
    for (const HullPlane& plane : hull.planes) {
      for (int i = 0; i < 3; ++i) covers.planes.push_back(static_cast<float>(plane.normal[i]));
      covers.planes.push_back(static_cast<float>(plane.offset));
    }
    out.end_plane = static_cast<int>(covers.planes.size() / 4);
  }
  Vector3 middle = part.pose.position;
  double radius = bounding_radius(part.shape);
  if (const auto* hull = std::get_if<Hull>(&part.shape)) {
    middle = part.pose * hull->data->middle;
    radius = hull->data->radius;
  }
  put(middle - covers.centre, out.ball);
  out.ball_radius = rounded_up(radius) + out.margin;
  covers.standing.push_back(out);
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
    covers.radius.push_back(rounded_up(ball.radius));
    covers.inside.push_back(-rounded_up(-ball.inside));
    covers.next.push_back(first + ball.next);
    levers.push_back(lever_of_point(arm, part.link, part.at * ball.centre));
  }
  covers.parts.push_back({link.joint, first, static_cast<int>(covers.x.size())});
}

Covers::Levers by_entries(const std::vector<Posture>& levers, int entries) {
  Covers::Levers out{entries, (levers.size() + 7) / 8 * 8, {}};
  out.values.resize(static_cast<std::size_t>(entries) * out.row);
  for (int e = 0; e < entries; ++e)
    for (std::size_t i = 0; i < levers.size(); ++i)
      out.values[static_cast<std::size_t>(e) * out.row + i] = rounded_up(levers[i][e]);
  return out;
}

LaneTree about(LaneTree tree, const Vector3& centre) {
  for (LaneTree::Joint& joint : tree.joints) joint.start.position -= centre;
  for (LaneTree::Carried& link : tree.links)
    if (link.joint < 0) link.at.position -= centre;
  return tree;
}

}  // namespace

Covers covers_of(const Arm& arm, const CheckedPairs& pairs) {
  const Vector3 centre = arm.mount().position;
  const double reach = reach_of(arm, pairs);
  Covers covers{.centre = centre,
                .margin = rounded_up(kRoundings * kUnit * std::sqrt(3.0) * reach),
                .tree = about(lane_tree(arm), centre),
                .map = map_of(centre, reach, pairs)};
  std::vector<Posture> levers;
  for (const MovingPart& part : pairs.moving) add_balls(covers, arm, part, levers);
  covers.ball_levers = by_entries(levers, arm.dof());
  levers.clear();
  for (const SelfPair& pair : pairs.self) levers.push_back(pair.lever);
  covers.pair_levers = by_entries(levers, arm.dof());
  covers.pairs = pairs.self.size();
  for (const StandingPart& part : pairs.standing) add_obstacle(covers, part);
  const std::vector<bool> listed = touchable(pairs);
  for (std::size_t s = 0; s < listed.size(); ++s)
    if (listed[s]) covers.listed.push_back(static_cast<int>(s));
  return covers;
}

}  // namespace er
