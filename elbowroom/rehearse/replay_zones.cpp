#include "elbowroom/rehearse/replay_zones.hpp"

#include "elbowroom/collision/distance.hpp"
#include "elbowroom/model/core_shape.hpp"

namespace er {
namespace {

// The shape's furthest points in 26 directions.
std::vector<Vector3> surface_points(const Shape& shape, const Pose& at) {
  const CoreShape core(shape, at);
  std::vector<Vector3> points;
  for (int x = -1; x <= 1; ++x)
    for (int y = -1; y <= 1; ++y)
      for (int z = -1; z <= 1; ++z) {
        if (x == 0 && y == 0 && z == 0) continue;
        const Vector3 direction = at.rotation * Vector3(x, y, z).normalized();
        points.push_back(core.support(direction) + core.radius * direction);
      }
  return points;
}

}  // namespace

ReplayZones::ReplayZones(const Cell& cell, const Arm& arm)
    : cell_(cell), arm_(arm), before_(arm.links().size()), after_(arm.links().size()) {
  for (const Zone& zone : cell_.zones())
    if (zone.caps_speed())
      for (const Part& part : zone.parts)
        zones_.push_back({part.shape, zone.at * part.at, bounding_radius(part.shape), &zone});
  if (zones_.empty()) return;
  for (std::size_t l = 0; l < arm.links().size(); ++l)
    for (const Part& part : arm.links()[l].parts)
      if (part.collides)
        parts_.push_back({part.shape, part.at, static_cast<int>(l), bounding_radius(part.shape),
                          surface_points(part.shape, part.at)});
}

bool ReplayZones::inside(const ArmPart& part, const Pose& link, const ZonePart& zone) {
  const Pose pose = link * part.at;
  if ((pose.position - zone.pose.position).norm() > part.radius + zone.radius + zone.zone->distance)
    return false;
  return distance(part.shape, pose, zone.shape, zone.pose).distance <= zone.zone->distance;
}

ReplayZones::Result ReplayZones::fastest(const PostureRef& before, const PostureRef& after,
                                         double tick) {
  Result out;
  if (zones_.empty()) return out;
  link_poses(arm_, before, before_);
  link_poses(arm_, after, after_);
  for (const ArmPart& part : parts_) {
    const Pose& a = before_[static_cast<std::size_t>(part.link)];
    const Pose& b = after_[static_cast<std::size_t>(part.link)];
    double most = 0.0;
    for (const Vector3& point : part.points) most = std::max(most, (b * point - a * point).norm());
    const double speed = most / tick;
    for (const ZonePart& zone : zones_) {
      const double share = speed / zone.zone->speed;
      if (share <= out.share || !(inside(part, a, zone) || inside(part, b, zone))) continue;
      out = {share, speed, link_name(arm_, part.link), zone.zone->name};
    }
  }
  return out;
}

}  // namespace er
