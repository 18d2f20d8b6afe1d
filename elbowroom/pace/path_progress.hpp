// PathProgress along a path by a law of time, and the motion that comes of it.
#pragma once

#include "elbowroom/pace/paced_motion.hpp"
#include "elbowroom/pace/path_limits.hpp"

namespace er {

/// A joint curve of one value: how far along a path something is, at each time.
using PathProgress = JointCurve;

/// Limits of progress itself that leave all joints within theirs, whatever is done within them: a
/// constant speed, and a constant acceleration (and jerk) to reach it with.
struct ProgressLimits {
  double speed = 0.0;
  double acceleration = 0.0;
  double jerk = 0.0;  ///< infinite where the joints' has no limits
};
/// From the path's derivatives at 16 points of each piece.
ProgressLimits progress_limits(const JointCurve& path, const PathLimits& limits);

/// From rest to rest by a law of straight lines (see line_profile), all but time-optimal.
PathProgress progress_by(Profile profile, double length, const ProgressLimits& limits);

/// The motion along `path` by that progress: `pieces` evenly spaced in time in each of the law's
/// own, about as long, each the quintic that meets position, velocity and acceleration at its ends.
Motion along(const JointCurve& path, const PathProgress& progress, int pieces);

}  // namespace er
