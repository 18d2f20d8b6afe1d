// The quickest way along a path with jerk limited, too.
//
// With x = (ds/dt)^2 as a function of s, velocities and accelerations are linear in x and x', and
// jerks are sqrt(x) times what is linear in x, x' and x''. (D. Verscheure et al., "Time-optimal
// path tracking for robots: a convex optimization approach", 2009, for all but jerk; jerk's limit
// over sqrt(x) is convex in x, so its tangent is a bound that never says too much.) x is a
// quadratic spline; the duration is brought down within the limits by Newton's steps on a barrier,
// whose matrix is a band of five. At both ends of the path s is a cubic of the parameter that x is
// a spline of: so x is above zero there, and acceleration begins and ends at zero.
#pragma once

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/pace/path_limits.hpp"

namespace er {

struct JerkLimitedPathOptions {
  /// Intervals of the spline, about; a path of many pieces has two in each at least.
  int intervals = 600;
  /// Where what is left over between knots is more than a percent of the duration, it is all done
  /// again with twice as many, so often at most.
  int refinements = 2;
  /// How near to the least duration of the spline, as a share: surely. Mostly it is twenty times
  /// nearer.
  double accuracy = 2e-3;
  int most_steps = 200;  ///< of Newton; it ends with what it has then, which keeps all limits
};

struct JerkLimitedPath {
  Motion motion;
  int intervals = 0;
  int steps = 0;        ///< of Newton
  double slowed = 1.0;  ///< times as long as without what was left over between the spline's knots
};

/// The motion along `path` from rest to rest, acceleration being zero at both ends; in each
/// interval the quintic that meets position, velocity and acceleration at its ends. No limit is
/// exceeded (those of the tool and of torques at a few moments of each piece): the whole is slowed
/// by what was left over between knots. The best that can be found from below, not proved to be the
/// best of all: on straight lines it is that of the closed form. `path` has a continuous direction
/// and curvature. A no where holding the arm still takes all that a motor has. Throws InputError
/// for limits that are not above zero or not finite, or a path of no length.
Verdict<JerkLimitedPath> jerk_limited_path(const JointCurve& path, const Arm& arm,
                                           const PathLimits& limits,
                                           const JerkLimitedPathOptions& options = {});

}  // namespace er
