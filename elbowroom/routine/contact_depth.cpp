#include "elbowroom/routine/contact_depth.hpp"

#include <algorithm>
#include <limits>

#include "elbowroom/collision/distance.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

// The parts of a body and where they are, given the poses of the arm's links.
struct PlacedBody {
  const std::vector<Part>* parts = nullptr;
  int link = -1;  // of the arm; else it stands
  Pose at = {};
};

PlacedBody placed_body(const Cell& cell, const Arm& arm, const std::string& name) {
  for (std::size_t i = 0; i < arm.links().size(); ++i)
    if (link_name(arm, static_cast<int>(i)) == name)
      return {&arm.links()[i].parts, static_cast<int>(i)};
  for (const auto* bodies : {&cell.fixtures(), &cell.pieces()})
    for (const Body& body : *bodies)
      if (body.name == name) return {&body.parts, -1, body.at};
  return {};
}

// A link of its own, not a piece that it holds.
bool is_link_of_an_arm(const Cell& cell, const std::string& name) {
  for (const Arm& arm : cell.arms())
    for (std::size_t i = 0; i < arm.links().size(); ++i)
      if (!arm.links()[i].held && link_name(arm, static_cast<int>(i)) == name) return true;
  return false;
}

}  // namespace

double least_distance(const Cell& cell, const Arm& arm, const MeantContact& pair,
                      const Motion& motion, int samples) {
  const PlacedBody a = placed_body(cell, arm, pair.first);
  const PlacedBody b = placed_body(cell, arm, pair.second);
  double least = std::numeric_limits<double>::infinity();
  if (a.parts == nullptr || b.parts == nullptr) return least;
  std::vector<Pose> links(arm.links().size());
  JointState state;
  const auto pose_of = [&](const PlacedBody& body) {
    return body.link < 0 ? body.at : links[static_cast<std::size_t>(body.link)];
  };
  for (int i = 0; i <= samples; ++i) {
    motion.at(motion.duration() * i / samples, state);
    link_poses(arm, state.position, links);
    for (const Part& one : *a.parts)
      for (const Part& other : *b.parts)
        if (one.collides && other.collides)
          least = std::min(
              least, distance(one.shape, pose_of(a) * one.at, other.shape, pose_of(b) * other.at)
                         .distance);
  }
  return least;
}

double counted_distance(double least, const Cell& cell, const MeantContact& pair,
                        double uncertainty) {
  const auto is_piece = [&](const std::string& name) {
    return std::any_of(cell.pieces().begin(), cell.pieces().end(),
                       [&](const Body& piece) { return piece.name == name; });
  };
  const bool comes_to_grip =
      is_piece(pair.first) != is_piece(pair.second) &&
      (is_link_of_an_arm(cell, pair.first) || is_link_of_an_arm(cell, pair.second));
  return comes_to_grip ? least - uncertainty : least;
}

}  // namespace er
