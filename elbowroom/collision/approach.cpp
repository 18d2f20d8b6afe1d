#include "elbowroom/collision/approach.hpp"

#include <Eigen/Geometry>
#include <algorithm>

namespace er {
void link_twists(const Arm& arm, const PartPoses& parts, const PostureRef& step,
                 std::vector<Twist>& out) {
  out.resize(arm.links().size());
  for (std::size_t i = 0; i < out.size(); ++i) {
    const Link& link = arm.links()[i];
    out[i] = link.parent_index < 0 ? Twist{} : out[static_cast<std::size_t>(link.parent_index)];
    if (link.posture_index < 0) continue;
    const Pose& pose = parts.link(static_cast<int>(i));
    const Vector3 along =
        link.posture_ratio * step[link.posture_index] * product(pose.rotation, link.joint.axis);
    if (link.joint.kind == JointKind::prismatic) {
      out[i].velocity += along;
    } else {
      out[i].turning += along;
      out[i].velocity += pose.position.cross(along);
    }
  }
}

Posture turns_of(const Arm& arm) {
  Posture turns = Posture::Zero(arm.dof());
  for (const Link& link : arm.links())
    if (link.posture_index >= 0 && link.joint.kind == JointKind::revolute)
      turns[link.posture_index] += std::abs(link.posture_ratio);
  return turns;
}

double least_ahead(const CoreInMotion& a, const CoreInMotion& b, const Vector3& normal,
                   double half) {
  const Vector3 turned_a = normal.cross(a.twist.turning);
  const Vector3 turned_b = normal.cross(b.twist.turning);
  const double closing = normal.dot(a.twist.velocity - b.twist.velocity);
  const auto gap = [&](double on) {
    return on * closing - a.core.furthest(-(normal + on * turned_a)) -
           b.core.furthest(normal + on * turned_b);
  };
  return std::min(gap(-half), gap(half));
}

double bend_within(const Posture& lever, const Posture& turns, const Posture& travel, double half) {
  double turning = 0.0;
  for (Eigen::Index k = 0; k < lever.size(); ++k)
    if (lever[k] > 0.0) turning += turns[k] * travel[k];
  return half * half * turning * lever.dot(travel);
}

}  // namespace er
