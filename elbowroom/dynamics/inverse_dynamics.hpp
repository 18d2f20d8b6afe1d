// What the motors have to give for a motion: joint torques and forces from positions, velocities
// and accelerations, and the mass matrix.
#pragma once

#include <optional>
#include <vector>

#include "elbowroom/model/arm.hpp"

namespace er {

/// Something carried that is no link: its inertial in the frame of the link that carries it.
struct Payload {
  int link = -1;
  Inertial inertial = {};
};

struct DynamicsOptions {
  std::optional<Payload> payload = {};
  /// Joints' damping and friction, where they state them; friction of a joint at rest is none.
  bool friction = true;
  double gravity = 9.80665;  ///< m/s^2, along -z of the world
};

/// Working memory, one per thread; makes the functions below allocate nothing.
class DynamicsMemory {
 public:
  explicit DynamicsMemory(const Arm& arm);

  /// Of each link, in world axes: frame, motion of its origin, and what it hands down to its
  /// parent.
  struct LinkState {
    Vector3 turning;       // rad/s
    Vector3 turning_rate;  // rad/s^2
    Vector3 acceleration;  // m/s^2, of the frame's origin, with gravity as an upward one
    Vector3 force;         // N
    Vector3 moment;        // N m, about the frame's origin
  };
  std::vector<Pose> poses;
  std::vector<LinkState> states;
};

/// Torques (N m) or forces (N) of the moving joints that make the arm move so; all postures have
/// one value for each. A joint that others follow moves those, too. The recursion of Newton and
/// Euler over the links (J. Luh, M. Walker and R. Paul, "On-line computational scheme for
/// mechanical manipulators", 1980), in world axes. A link that states no mass counts as having
/// none: ask require_masses() first.
Posture inverse_dynamics(const Arm& arm, const PostureRef& position, const PostureRef& velocity,
                         const PostureRef& acceleration, const DynamicsOptions& options,
                         DynamicsMemory& memory);
Posture inverse_dynamics(const Arm& arm, const PostureRef& position, const PostureRef& velocity,
                         const PostureRef& acceleration, const DynamicsOptions& options = {});

/// Rows and columns as in postures: kg m^2, kg m or kg.
using MassMatrix =
    Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::ColMajor, kMaxJoints, kMaxJoints>;

/// Symmetric and positive definite where every joint moves some mass. Column by column, each from
/// one recursion.
MassMatrix mass_matrix(const Arm& arm, const PostureRef& position, const DynamicsOptions& options,
                       DynamicsMemory& memory);

/// Throws InputError that names the first link beyond the base that has shapes and states no mass.
void require_masses(const Arm& arm);

}  // namespace er
