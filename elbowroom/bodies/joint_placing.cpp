#include "elbowroom/bodies/joint_placing.hpp"

#include "elbowroom/kinematics/forward.hpp"

namespace er {

std::vector<Link> links_placed(const Arm& arm, const PostureRef& posture,
                               const std::vector<Pose>& poses) {
  const std::vector<Pose> now = link_poses(arm, posture);
  std::vector<Link> out = arm.description().links;
  for (std::size_t l = 0; l < out.size(); ++l) {
    const int parent = arm.links()[l].parent_index;
    if (parent < 0) continue;
    const auto p = static_cast<std::size_t>(parent);
    // In the parent: origin, then motion. The motion stays, so what the origin changes by is known.
    const Pose wanted = poses[p].inverse() * poses[l];
    const Pose is = now[p].inverse() * now[l];
    Pose& origin = out[l].joint.origin;
    origin = wanted * is.inverse() * origin;
  }
  return out;
}

Arm standing_at(const Arm& arm, const PostureRef& posture) {
  ArmDescription out = arm.description();
  out.stances.clear();
  out.links = links_placed(arm, Posture::Zero(arm.dof()), link_poses(arm, posture));
  return Arm::build(std::move(out));
}

}  // namespace er
