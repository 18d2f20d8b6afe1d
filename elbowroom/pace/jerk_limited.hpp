// One joint from any state to any state within limits of velocity, acceleration and jerk: in the
// least time, or in a given one.
//
// For a fixed time the displacements that can be reached are an interval (farthest.hpp). It grows
// from a point at the least time in which the velocity can change as asked; the answer is where
// its upper or lower end first meets the displacement that is asked for. In a longer time the
// motion is the one that cruises at a lower speed; where there is none, a mean of the farthest up
// and the farthest down, which keeps every limit since all limits are linear.
#pragma once

#include "elbowroom/pace/axis.hpp"
#include "elbowroom/pace/farthest.hpp"

namespace er {

/// A joint that starts outside of its limits first comes back within them as quickly as may be.
/// Allocates nothing.
class JerkLimited {
 public:
  /// All limits above zero (lower ones below), the jerk's finite, and a target that they allow
  /// (target_breach): otherwise InputError.
  JerkLimited(const AxisState& from, const AxisState& to, const AxisLimits& limits);

  /// The least time, s.
  [[nodiscard]] double shortest() const { return back_within_ + shortest_; }
  /// The least time of at least `duration` in which it can be done: a joint that moves at one end
  /// or the other cannot always wait.
  [[nodiscard]] double possible_from(double duration) const;
  /// In exactly `duration`, which is one that possible_from() gave.
  [[nodiscard]] AxisProfile profile(double duration) const;

 private:
  [[nodiscard]] double next_time(double time) const;
  [[nodiscard]] double rounding(double time) const;

  AxisLimits limits_;
  AxisProfile prefix_;        // back within the limits
  double back_within_ = 0.0;  // how long that takes
  ScaledEnds ends_;
  double distance_ = 0.0;  // after the prefix, divided by the jerk limit
  bool rests_ = false;     // nothing to do
  PossibleTimes times_;
  double shortest_ = 0.0;  // after the prefix
};

/// The least time (s) from rest to rest over `distance`, as a closed form; limits the same both
/// ways, infinite ones allowed but for the jerk.
double rest_to_rest_time(double distance, double velocity, double acceleration, double jerk);

}  // namespace er
