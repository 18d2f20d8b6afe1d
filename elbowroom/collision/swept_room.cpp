#include "elbowroom/collision/swept_room.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

// The box about the parts in one posture, each made larger by what it may move.
void add(const CellQuery& query, const PostureRef& posture, const Posture& travel,
         std::vector<Pose>& links, AlignedBox& room) {
  link_poses(query.arm(), posture, links);
  for (const MovingPart& part : query.pairs().moving) {
    if (part.lever.isZero(0.0)) continue;
    AlignedBox box = aligned_box(part.shape, links[static_cast<std::size_t>(part.link)] * part.at);
    const double further = part.lever.dot(travel);
    box.low.array() -= further;
    box.high.array() += further;
    room = room.with(box);
  }
}

}  // namespace

AlignedBox swept_room(const CellQuery& query, const std::vector<Posture>& waypoints,
                      double within) {
  if (waypoints.empty()) throw InputError("a path without waypoints takes up no room");
  const double infinity = std::numeric_limits<double>::infinity();
  AlignedBox room{Vector3::Constant(infinity), Vector3::Constant(-infinity)};
  std::vector<Pose> links(query.arm().links().size());
  const Posture still = Posture::Zero(waypoints.front().size());
  add(query, waypoints.front(), still, links, room);
  for (std::size_t i = 0; i + 1 < waypoints.size(); ++i) {
    const Posture way = waypoints[i + 1] - waypoints[i];
    double furthest = 0.0;
    for (const MovingPart& part : query.pairs().moving)
      furthest = std::max(furthest, part.lever.dot(way.cwiseAbs()));
    const int pieces = 1 + static_cast<int>(furthest / (2.0 * within));
    const Posture half = 0.5 / pieces * way.cwiseAbs();
    for (int k = 0; k < pieces; ++k)
      add(query, Posture(waypoints[i] + (k + 0.5) / pieces * way), half, links, room);
  }
  return room;
}

std::string text_of(const AlignedBox& room) {
  std::string text;
  for (int k = 0; k < 3; ++k)
    text += fmt::format("{}{} {:.0f} to {:.0f} mm", k == 0 ? "" : ", ", "xyz"[k],
                        std::floor(to_mm(room.low[k])) + 0.0, std::ceil(to_mm(room.high[k])) + 0.0);
  return text;
}

}  // namespace er
