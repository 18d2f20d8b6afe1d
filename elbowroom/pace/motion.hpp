// A motion: joint positions as piecewise polynomials of time, and how much of each limit it uses.
#pragma once

#include <string>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

/// A joint curve whose parameter is time in seconds.
using Motion = JointCurve;

/// The largest use of one kind of limit over a motion.
struct PeakUse {
  double share = 0.0;  ///< of the limit; 1 is all of it
  int joint = -1;
  double time = 0.0;
};

struct MotionPeaks {
  PeakUse velocity;
  PeakUse acceleration;
  PeakUse jerk;  ///< inside the pieces; a jump of acceleration between pieces is not counted
};

/// Exact peaks, from the extremes of each polynomial.
MotionPeaks peaks_of(const Motion& motion, const Limits& limits);

/// By how much a joint's velocity (1) or acceleration (2) jumps where piece `index` begins; before
/// the first and after the last piece (`index` is their number) it is at rest. A position (0) jumps
/// only between two pieces.
double jump_before(const Motion& motion, std::size_t index, int joint, int derivative);

/// The same in pieces of 1 / `rate` seconds (above zero), which meet its positions, velocities and
/// accelerations at their ends; the last may be shorter.
Motion resampled(const Motion& motion, double rate);

/// A table per joint: travel, largest velocity and acceleration, and their limits.
std::string limits_table(const Motion& motion, const Arm& arm);

}  // namespace er
