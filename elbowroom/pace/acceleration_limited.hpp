// One joint from any velocity to any velocity within limits of velocity and acceleration, with
// accelerations that may jump: trapezoids of velocity, in the least time or in a given one. All of
// it in closed forms.
#pragma once

#include "elbowroom/pace/axis.hpp"

namespace er {

/// Accelerations of the states at both ends are of no account. Allocates nothing.
class AccelerationLimited {
 public:
  /// Limits as JerkLimited has them, but for the jerk, which is not looked at. InputError.
  AccelerationLimited(const AxisState& from, const AxisState& to, const AxisLimits& limits);

  /// The least time, s.
  [[nodiscard]] double shortest() const { return back_within_ + shortest_; }
  /// The least time of at least `duration` in which it can be done.
  [[nodiscard]] double possible_from(double duration) const;
  /// In exactly `duration`, which is one that possible_from() gave: a cruise at one speed between
  /// two changes of velocity.
  [[nodiscard]] AxisProfile profile(double duration) const;

 private:
  // Of changes of velocity from both ends to `plateau` and how far they go.
  struct Changes {
    double first = 0.0;   // s
    double second = 0.0;  // s
    double displacement = 0.0;
  };
  [[nodiscard]] Changes changes(double plateau) const;
  [[nodiscard]] double displacement(double plateau, double time) const;
  [[nodiscard]] double extreme_plateau(double sign, double time) const;
  [[nodiscard]] double meeting_time(double sign) const;
  [[nodiscard]] double plateau_for(double time) const;
  [[nodiscard]] double inverse_accelerations(double sign, double& first, double& second) const;

  AxisLimits limits_;
  AxisProfile prefix_;
  double back_within_ = 0.0;
  double v0_ = 0.0;
  double v1_ = 0.0;
  double distance_ = 0.0;  // after the prefix
  double least_change_ = 0.0;
  double shortest_ = 0.0;
};

}  // namespace er
