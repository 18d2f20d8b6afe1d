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

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/pace/path_limits.hpp"

namespace er {

struct TimeOptimalOptions {
  /// Intervals of the grid, about, if all of the path were curved. Straight lines need none. 0: so
  /// many that it takes a thousandth longer than the quickest at most, which is 1000, or 3000 where
  /// torques have limits: these change more within an interval.
  int intervals = 0;
  /// Where what is left over between points is more than a thousandth of the duration, it is all
  /// done again with four times as many, so often at most.
  int refinements = 2;
};

struct TimeOptimal {
  Motion motion;
  int intervals = 0;    ///< of the grid
  double slowed = 1.0;  ///< times as long as without what the grid left over between its points
};

/// The quickest motion along `path` from rest to rest that keeps all limits but jerk's. Its
/// velocity and acceleration are those of the path where that is straight; about curves each
/// interval is the quintic that meets position, velocity and acceleration of the path at its ends.
/// No limit is exceeded (those of the tool and of torques at a few moments of each piece): the
/// whole is slowed by what the grid left over, mostly a few millionths. `path` has a continuous
/// direction and curvature. A no where holding the arm still takes all that a motor has. Throws
/// InputError for limits that are not above zero, or a path of no length.
Verdict<TimeOptimal> time_optimal(const JointCurve& path, const Arm& arm, const PathLimits& limits,
                                  const TimeOptimalOptions& options = {});

}  // namespace er
