// One numeric solve of a target from one start posture.
#pragma once

#include "elbowroom/kinematics/target_on_arm.hpp"

namespace er {

struct NumericOptions {
  int iterations = 120;  ///< most steps per start; a normal solve takes 5 to 30
  /// rad or m, by which joint ranges and bands count as wider at each end, to explain a no;
  /// infinite ignores them.
  double wider = 0.0;
  /// Ends a solve that has not halved its squared error in six steps: where many starts are tried,
  /// another one is cheaper. Where the nearest posture is wanted even if it does not do, leave it.
  bool give_up_early = false;
  double angle_weight = 0.3;  ///< metres that one radian of orientation error counts as; 0 drops it
};

/// Of many starts seven in eight are ended early; the eighth is for targets that all crawl towards.
inline bool ends_early(int start) { return start % 8 != 7; }

struct NumericSolve {
  Posture posture;
  TargetOnArm::Error error;  ///< of all requirements together
  int iterations = 0;
  bool met = false;  ///< within the target's tolerances (angles apart, where their weight is 0)
};

/// Damped least squares over all requirements, with the damping of D. Marquardt, "An algorithm for
/// least-squares estimation of nonlinear parameters", 1963; joints that a step would push past a
/// limit are held there for that step. Ends when the target is met ten times better than asked, or
/// when no step helps any more. Allocates nothing.
NumericSolve solve_from(const TargetOnArm& target, const PostureRef& start,
                        const NumericOptions& options = {});
/// The same where the target was not made ready before. Throws InputError as TargetOnArm does.
NumericSolve solve_from(const Arm& arm, const Target& target, const PostureRef& start,
                        const NumericOptions& options = {});

}  // namespace er
