#include "elbowroom/kinematics/reach_bound.hpp"

#include "elbowroom/kinematics/forward.hpp"

namespace er {

ReachBound reach_bound(const Arm& arm, int link, const Vector3& point) {
  double sum = point.norm();
  double bound = 0.0;  // up to the first moving joint
  int first = link;
  const std::vector<int> way = arm.links_to(link);
  for (auto l = way.rbegin(); l != way.rend(); ++l) {
    const Link& here = arm.links()[static_cast<std::size_t>(*l)];
    sum += arm.furthest_slide(*l);
    if (here.posture_index >= 0) {
      bound = sum;
      first = *l;
    }
    sum += here.joint.origin.position.norm();
  }
  // What is before the first moving joint stands, whatever the posture.
  const Link& moved = arm.links()[static_cast<std::size_t>(first)];
  const std::vector<Pose> poses = link_poses(arm, Posture::Zero(arm.dof()));
  const Pose before =
      moved.parent_index < 0 ? arm.mount() : poses[static_cast<std::size_t>(moved.parent_index)];
  return {before * moved.joint.origin.position, bound};
}

}  // namespace er
