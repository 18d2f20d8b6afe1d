#include "elbowroom/dynamics/moving_bodies.hpp"

#include <cmath>

namespace er {
namespace {

void add(const Inertial& inertial, const Pose& at, MovingBody& body) {
  if (inertial.mass == 0.0) return;
  const Inertial seen = moved(inertial, at);
  const Vector3& c = seen.centre;
  body.mass += seen.mass;
  body.first_moment += seen.mass * c;
  body.inertia +=
      seen.inertia + seen.mass * (c.squaredNorm() * Matrix3::Identity() - c * c.transpose());
}

}  // namespace

MovingBodies moving_bodies(const Arm& arm, const std::optional<Payload>& payload) {
  MovingBodies out{lane_tree(arm), {}, Posture::Zero(arm.dof()), Posture::Zero(arm.dof())};
  out.bodies.resize(out.tree.joints.size());
  for (std::size_t i = 0; i < arm.links().size(); ++i) {
    const Link& link = arm.links()[i];
    if (link.posture_index >= 0) {
      out.damping[link.posture_index] +=
          link.posture_ratio * link.posture_ratio * link.joint.damping;
      out.friction[link.posture_index] += std::abs(link.posture_ratio) * link.joint.friction;
    }
    const LaneTree::Carried& carried = out.tree.links[i];
    if (carried.joint < 0) continue;
    MovingBody& body = out.bodies[static_cast<std::size_t>(carried.joint)];
    add(link.inertial, carried.at, body);
    if (payload && payload->link == static_cast<int>(i)) add(payload->inertial, carried.at, body);
  }
  return out;
}

}  // namespace er
