#include "elbowroom/dynamics/inverse_dynamics.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/dynamics/gravity.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

using LinkState = DynamicsMemory::LinkState;

// From the base outward: how each link moves.
void move_links(const Arm& arm, const PostureRef& velocity, const PostureRef& acceleration,
                double gravity, DynamicsMemory& memory) {
  for (std::size_t i = 0; i < arm.links().size(); ++i) {
    const Link& link = arm.links()[i];
    LinkState& state = memory.states[i];
    const Pose& pose = memory.poses[i];
    const bool is_base = link.parent_index < 0;
    const auto parent = static_cast<std::size_t>(is_base ? 0 : link.parent_index);
    const Pose& from = is_base ? arm.mount() : memory.poses[parent];
    LinkState before{Vector3::Zero(), Vector3::Zero(), Vector3(0, 0, gravity), {}, {}};
    if (!is_base) before = memory.states[parent];
    const Vector3 arm_to = pose.position - from.position;
    state.turning = before.turning;
    state.turning_rate = before.turning_rate;
    state.acceleration = before.acceleration + before.turning_rate.cross(arm_to) +
                         before.turning.cross(before.turning.cross(arm_to));
    if (link.posture_index < 0) continue;
    const Vector3 axis = pose.rotation * link.joint.axis;
    const Vector3 rate = link.posture_ratio * velocity[link.posture_index] * axis;
    const Vector3 growth = link.posture_ratio * acceleration[link.posture_index] * axis;
    if (link.joint.kind == JointKind::revolute) {
      state.turning += rate;
      state.turning_rate += growth + before.turning.cross(rate);
    } else {
      state.acceleration += growth + 2.0 * before.turning.cross(rate);
    }
  }
}

// What moving an inertial so takes, added to the force on its link and the moment about its origin.
void add_inertial(const Inertial& inertial, const Pose& pose, LinkState& state) {
  if (inertial.mass == 0.0) return;
  const Vector3 to_centre = pose.rotation * inertial.centre;
  const Vector3 acceleration = state.acceleration + state.turning_rate.cross(to_centre) +
                               state.turning.cross(state.turning.cross(to_centre));
  const Vector3 force = inertial.mass * acceleration;
  // In the link's own axes, where its moments of inertia are given.
  const Vector3 turning = pose.rotation.transpose() * state.turning;
  const Vector3 rate = pose.rotation.transpose() * state.turning_rate;
  const Vector3 moment = inertial.inertia * rate + turning.cross(inertial.inertia * turning);
  state.force += force;
  state.moment += pose.rotation * moment + to_centre.cross(force);
}

}  // namespace

DynamicsMemory::DynamicsMemory(const Arm& arm)
    : poses(arm.links().size()), states(arm.links().size()) {}

Posture inverse_dynamics(const Arm& arm, const PostureRef& position, const PostureRef& velocity,
                         const PostureRef& acceleration, const DynamicsOptions& options,
                         DynamicsMemory& memory) {
  link_poses(arm, position, memory.poses);
  move_links(arm, velocity, acceleration, options.gravity, memory);
  for (std::size_t i = 0; i < arm.links().size(); ++i) {
    LinkState& state = memory.states[i];
    state.force.setZero();
    state.moment.setZero();
    add_inertial(arm.links()[i].inertial, memory.poses[i], state);
    if (options.payload && options.payload->link == static_cast<int>(i))
      add_inertial(options.payload->inertial, memory.poses[i], state);
  }
  // Back to the base: each link passes on what it takes.
  Posture effort = Posture::Zero(arm.dof());
  for (std::size_t i = arm.links().size(); i-- > 0;) {
    const Link& link = arm.links()[i];
    const LinkState& state = memory.states[i];
    if (link.posture_index >= 0) {
      const Vector3 axis = memory.poses[i].rotation * link.joint.axis;
      const bool turns = link.joint.kind == JointKind::revolute;
      double own = (turns ? state.moment : state.force).dot(axis);
      if (options.friction) {
        const double rate = link.posture_ratio * velocity[link.posture_index];
        own += link.joint.damping * rate;
        if (rate != 0.0) own += std::copysign(link.joint.friction, rate);
      }
      effort[link.posture_index] += link.posture_ratio * own;
    }
    if (link.parent_index < 0) continue;
    const auto parent = static_cast<std::size_t>(link.parent_index);
    LinkState& onto = memory.states[parent];
    onto.force += state.force;
    onto.moment += state.moment +
                   (memory.poses[i].position - memory.poses[parent].position).cross(state.force);
  }
  return effort;
}

Posture inverse_dynamics(const Arm& arm, const PostureRef& position, const PostureRef& velocity,
                         const PostureRef& acceleration, const DynamicsOptions& options) {
  DynamicsMemory memory(arm);
  return inverse_dynamics(arm, position, velocity, acceleration, options, memory);
}

MassMatrix mass_matrix(const Arm& arm, const PostureRef& position, const DynamicsOptions& options,
                       DynamicsMemory& memory) {
  DynamicsOptions inertia_alone = options;
  inertia_alone.gravity = 0.0;
  inertia_alone.friction = false;
  const Posture still = Posture::Zero(arm.dof());
  MassMatrix out(arm.dof(), arm.dof());
  Posture unit = still;
  for (int k = 0; k < arm.dof(); ++k) {
    unit[k] = 1.0;
    out.col(k) = inverse_dynamics(arm, position, still, unit, inertia_alone, memory);
    unit[k] = 0.0;
  }
  return out;
}

void require_masses(const Arm& arm) {
  const int link = link_without_mass(arm);
  if (link < 0) return;
  throw InputError(fmt::format("link '{}' of arm '{}' states no mass, and torques need it",
                               arm.links()[static_cast<std::size_t>(link)].name, arm.name()),
                   "state it: mass: 4.2 kg, or a density");
}

}  // namespace er
