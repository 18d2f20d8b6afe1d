#include "elbowroom/dynamics/gravity.hpp"

#include <Eigen/Geometry>

#include "elbowroom/kinematics/forward.hpp"

namespace er {

Posture gravity_load(const Arm& arm, const PostureRef& posture) {
  constexpr double kGravity = 9.80665;
  Posture load = Posture::Zero(arm.dof());
  Jacobian jacobian;
  const std::vector<Pose> links = link_poses(arm, posture);
  for (std::size_t i = 0; i < arm.links().size(); ++i) {
    const Inertial& inertial = arm.links()[i].inertial;
    if (inertial.mass == 0.0) continue;
    frame_jacobian(arm, links, static_cast<int>(i), Pose::at(inertial.centre), jacobian);
    // Raising the centre of mass takes the work that the motors do.
    load += inertial.mass * kGravity * jacobian.row(2).transpose();
  }
  return load;
}

int link_without_mass(const Arm& arm) {
  for (std::size_t i = 1; i < arm.links().size(); ++i)
    if (!arm.links()[i].parts.empty() && arm.links()[i].inertial.mass == 0.0)
      return static_cast<int>(i);
  return -1;
}

bool states_masses(const Arm& arm) { return link_without_mass(arm) < 0; }

}  // namespace er
