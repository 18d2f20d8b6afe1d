// One step of following at velocity level: joint velocities that move a frame as commanded.
#pragma once

#include <array>

#include "elbowroom/base/posture.hpp"

namespace er {

/// How joint velocities are found; all but `limited` are there to compare with.
enum class FollowMode {
  limited,  ///< keeps every limit and the commanded direction, and slows down for both
  damped,   ///< least squares with damping near singularities: calm, but off the path
  pseudo,   ///< the shortest joint velocity that does it, whatever the limits
  plain,    ///< the inverse of a square Jacobian, whatever the limits
};

/// J u = scale * command + correction, where scale is as large as can be and no more than
/// `most_scale`. Rows in any unit, alike in size (angles times a radius). Lives on the stack.
struct StepQuestion {
  static constexpr int kMostRows = 6;
  int joints = 0;
  int rows = 0;
  std::array<std::array<double, kMaxJoints>, kMostRows> jacobian;
  std::array<double, kMostRows> command;     ///< per unit of scale
  std::array<double, kMostRows> correction;  ///< what brings the frame back; never scaled
  double most_scale = 1.0;
  Posture lower;  ///< allowed joint velocities, rad/s or m/s
  Posture upper;
  Posture unit;  ///< what each joint's velocity is measured in: its limit, say; above zero
  Posture wish;  ///< the joint velocity that is wanted where the rows leave freedom
};

struct StepAnswer {
  Posture velocity;
  double scale = 0.0;
  /// False where no joint velocity in the box keeps the direction: this one strays the least.
  bool on_course = false;
  int held_by = -1;      ///< the joint whose box held the scale down; -1: none
  bool held_up = false;  ///< it was the upper side of that joint's box
};

/// Limited: the largest scale is exact (each candidate is either met or refuted by a proof, which
/// says how much smaller it has to be: Newton's method on the dual of the linear programme), then
/// the velocity nearest to the wish. Damped: Y. Nakamura and H. Hanafusa, "Inverse kinematic
/// solutions with singularity robustness", 1986. Plain needs as many rows as joints. The last three
/// ignore box and wish, and their scale is `most_scale`. Allocates nothing.
void velocity_step(const StepQuestion& question, FollowMode mode, StepAnswer& out);

/// True when no joint moves by more than 1e-9 of the unit of its velocity.
bool is_standstill(const Posture& velocity, const Posture& unit);

}  // namespace er
