// How far one joint can get in a given time, within limits of velocity, acceleration and jerk, when
// the velocities and accelerations at both ends are given; and which times allow that at all.
//
// For a fixed time all this is a linear programme in the jerk, so the displacements that can be
// reached fill an interval, from the farthest down to the farthest up. The farthest up: jerk up,
// down and up again, with holds where a limit of acceleration is met and a cruise where that of
// velocity is. For a fixed time its switching times are closed forms (none higher than a square
// root), where for a fixed displacement they are roots of quartics; so the search for the least
// time runs over the time alone.
//
// Everything here is divided by the jerk limit, which makes that 1: accelerations are in s,
// velocities in s^2, displacements in s^3.
#pragma once

#include <array>

namespace er {

/// Velocity and acceleration at both ends, and the limits between, divided by the jerk limit.
struct ScaledEnds {
  double v0 = 0.0;
  double a0 = 0.0;
  double v1 = 0.0;
  double a1 = 0.0;
  double v_low = 0.0;
  double v_high = 0.0;
  double a_low = 0.0;
  double a_high = 0.0;

  /// Up for down.
  [[nodiscard]] ScaledEnds mirrored() const;
};

/// Durations of jerk +1, 0, -1, 0, -1, 0, +1. Without a cruise between, the fall of acceleration
/// stands in the third alone.
struct SevenPhases {
  std::array<double, 7> t = {};

  [[nodiscard]] double duration() const;
};

inline constexpr std::array<double, 7> kClimbJerks{1.0, 0.0, -1.0, 0.0, -1.0, 0.0, 1.0};

/// How far a climb gets, and how that grows with the time allowed for it.
struct Climb {
  SevenPhases phases = {};
  double displacement = 0.0;
  double slope = 0.0;    ///< of the displacement over the duration, at the optimum
  double plateau = 0.0;  ///< velocity where acceleration passes zero from above
  bool has_plateau = false;
};

/// The farthest up in `duration`, which is one that the ends allow (PossibleTimes).
Climb farthest(const ScaledEnds& ends, double duration);

/// A duration, and how far the only motion gets that keeps the limits and takes no longer.
struct TimeAndPlace {
  double time = 0.0;
  double displacement = 0.0;
};

/// Durations in which the velocity and acceleration can change as asked, wherever that leads: all
/// from `first` on, but for a gap. (With accelerations of one sign at both ends, the velocity soon
/// changes by more than was asked, and it takes a turn about zero acceleration to undo that.)
struct PossibleTimes {
  TimeAndPlace first = {};
  bool has_gap = false;
  TimeAndPlace before_gap = {};
  TimeAndPlace after_gap = {};
};

PossibleTimes possible_times(const ScaledEnds& ends);

/// The quickest change from (v0, a0) to velocity `plateau` without acceleration.
struct PlateauChange {
  std::array<double, 3> t = {};  ///< jerk, none, the other jerk
  double sign = 1.0;             ///< of the first jerk
  double duration = 0.0;
  double displacement = 0.0;
  double peak = 0.0;  ///< the largest acceleration, without sign
};

PlateauChange to_plateau(double v0, double a0, double plateau, double a_low, double a_high);

}  // namespace er
