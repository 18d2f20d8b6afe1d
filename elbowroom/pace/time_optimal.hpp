// The quickest way along a path: progress s(t) such that no limit is exceeded and none could be
// used more.
//
// With x = (ds/dt)^2 and u = d2s/dt2 every limit is linear in (u, x) at a given s, and along a
// piece of constant u, x grows linearly with s. Going backward over a grid, the largest x from
// which the rest can still be kept within the limits is found for each point; going forward,
// progress takes the largest u that stays below that. (H. Pham and Q.-C. Pham, "A new approach to
// time-optimal path parameterization based on reachability analysis", 2018.) Limits hold at both
// ends of each interval, with the path's derivatives of that end; held at one end only they are
// exceeded by far.
#pragma once

#include <limits>
#include <vector>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er {

/// How fast a stretch of the path may be gone along at most.
struct StretchCap {
  double from = 0.0;  ///< the path's parameter
  double to = 0.0;
  double share = 1.0;  ///< of every velocity limit, above 0
};

struct PathLimits {
  Posture velocity;      ///< of the joints, rad/s or m/s
  Posture acceleration;  ///< rad/s^2 or m/s^2
  /// Of the point `tip` of `link` of the arm, m/s and m/s^2.
  double tool_speed = std::numeric_limits<double>::infinity();
  double tool_acceleration = std::numeric_limits<double>::infinity();
  int link = -1;
  Vector3 tip = Vector3::Zero();
  std::vector<StretchCap> caps = {};
};

struct TimeOptimalOptions {
  /// Intervals of the grid, about, if all of the path were curved. Straight lines need none.
  int intervals = 1000;
};

struct TimeOptimal {
  Motion motion;
  int intervals = 0;  ///< of the grid
  double excess =
      0.0;  ///< what limits were exceeded by between grid points, before all was slowed by that
};

/// The quickest motion along `path` from rest to rest. Its velocity and acceleration are those of
/// the path where that is straight; about curves each interval is the quintic that meets position,
/// velocity and acceleration of the path at its ends. No limit is exceeded (the tool's at 9 samples
/// a piece): the whole is slowed by what the grid left over, mostly a few millionths. `path` has a
/// continuous direction and curvature. Throws InputError for limits that are not above zero, or a
/// path of no length.
TimeOptimal time_optimal(const JointCurve& path, const Arm& arm, const PathLimits& limits,
                         const TimeOptimalOptions& options = {});

}  // namespace er
