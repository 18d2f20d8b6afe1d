// One numeric solve of a tool pose from one start posture.
#pragma once

#include "elbowroom/kinematics/target.hpp"

namespace er {

struct NumericOptions {
  int iterations = 120;       ///< most steps per start; a normal solve takes 5 to 30
  bool keep_limits = true;    ///< false ignores joint ranges: used to explain a no
  double angle_weight = 0.3;  ///< metres that one radian of orientation error counts as; 0 drops it
};

struct NumericSolve {
  Posture posture;
  TargetError error;
  int iterations = 0;
  bool met = false;  ///< within the target's tolerances
};

/// Damped least squares with the damping of D. Marquardt, "An algorithm for least-squares
/// estimation of nonlinear parameters", 1963; joints that a step would push past a limit are held
/// there for that step. Ends when the target is met ten times better than asked, or when no step
/// helps any more. Allocates nothing.
NumericSolve solve_from(const Arm& arm, const Target& target, const PostureRef& start,
                        const NumericOptions& options = {});

}  // namespace er
