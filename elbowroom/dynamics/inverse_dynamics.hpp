// What the motors have to give for a motion: joint torques and forces from positions, velocities
// and accelerations, and the mass matrix.
#pragma once

#include <optional>

#include "elbowroom/dynamics/moving_bodies.hpp"

namespace er {

struct DynamicsOptions {
  std::optional<Payload> payload = {};
  /// Joints' damping and friction, where they state them; friction of a joint at rest is none.
  bool friction = true;
  double gravity = 9.80665;  ///< m/s^2, along -z of the world
};

/// Rows and columns as in postures: kg m^2, kg m or kg.
using MassMatrix =
    Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::ColMajor, kMaxJoints, kMaxJoints>;
/// One value a joint (column) for each of many postures (rows).
using PostureRows = Eigen::MatrixXd;

/// An arm made ready for dynamics. A link that states no mass counts as having none: ask
/// require_masses() first. Nothing here allocates once it is built.
class ArmDynamics {
 public:
  explicit ArmDynamics(const Arm& arm, const DynamicsOptions& options = {});

  /// Torques (N m) or forces (N) of the moving joints that make the arm move so; all postures have
  /// one value for each. A joint that others follow moves those, too. The recursion of Newton and
  /// Euler.
  [[nodiscard]] Posture inverse(const PostureRef& position, const PostureRef& velocity,
                                const PostureRef& acceleration) const;
  /// The same for each row, in vector lanes; `effort` has their size already. To rounding what
  /// one after the other gives, and the same bits on every instruction set.
  void inverse(const PostureRows& position, const PostureRows& velocity,
               const PostureRows& acceleration, PostureRows& effort) const;
  /// Along a path s, told by its points and their first two derivatives, what moving takes without
  /// friction is held + by_square (ds/dt)^2 + by_growth d2s/dt2: each for all points, in lanes. The
  /// last one may be left out (null).
  void along(const PostureRows& position, const PostureRows& slope, const PostureRows& curvature,
             PostureRows& held, PostureRows& by_square, PostureRows* by_growth) const;

  /// Symmetric and positive definite where every joint moves some mass. Column by column, each from
  /// one recursion.
  [[nodiscard]] MassMatrix mass_matrix(const PostureRef& position) const;

  [[nodiscard]] bool with_friction() const { return with_friction_; }
  /// By entries of a posture: N m s/rad or N s/m, and N m or N.
  [[nodiscard]] const Posture& damping() const { return bodies_.damping; }
  [[nodiscard]] const Posture& friction() const { return bodies_.friction; }

 private:
  MovingBodies bodies_;
  bool with_friction_;
  double gravity_;
};

/// Of one posture, for an arm that is asked once.
Posture inverse_dynamics(const Arm& arm, const PostureRef& position, const PostureRef& velocity,
                         const PostureRef& acceleration, const DynamicsOptions& options = {});

/// Throws InputError that names the first link beyond the base that has shapes and states no mass.
void require_masses(const Arm& arm);

}  // namespace er
