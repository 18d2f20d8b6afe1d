#include "elbowroom/reach/line_of_sight.hpp"

#include "elbowroom/collision/distance.hpp"

namespace er {
namespace {

constexpr double kBefore = 1e-3;     // m before the point that may be filled
constexpr double kThickness = 1e-4;  // m: the line is a thin rod

std::string blocks(const CellQuery& query, const PartPoses& parts, int camera_link,
                   const Vector3& from, const Vector3& to) {
  const double length = (to - from).norm() - kBefore;
  if (length <= kThickness) return {};
  const Part rod = capsule_between(from, from + length * (to - from).normalized(), kThickness);
  const auto meets = [&](const Shape& shape, const Pose& pose) {
    return !further_apart_than(0.0, rod.shape, rod.at, shape, pose);
  };
  for (std::size_t i = 0; i < query.pairs().moving.size(); ++i) {
    const MovingPart& part = query.pairs().moving[i];
    if (part.link != camera_link && meets(part.shape, parts.pose(static_cast<int>(i))))
      return query.name(part.body);
  }
  for (const StandingPart& part : query.pairs().standing)
    if (!part.is_zone && meets(part.shape, part.pose)) return query.name(part.body);
  return {};
}

}  // namespace

std::string view_blocked_by(const CellQuery& query, const TargetOnArm& target,
                            const Posture& posture, PartPoses& parts) {
  bool placed = false;
  for (int i = 0; i < target.size(); ++i) {
    const InSight* sight = std::get_if<InSight>(&target[i].requirement->holds);
    if (sight == nullptr || !sight->unblocked) continue;
    if (!placed) parts.place_at(query, posture);
    placed = true;
    const Pose camera = frame_pose(query.arm(), target[i].link, target[i].frame, posture);
    for (const Vector3& point : sight->points) {
      std::string name = blocks(query, parts, target[i].link, camera.position, point);
      if (!name.empty()) return name;
    }
  }
  return {};
}

}  // namespace er
