// Motions that are polynomials of time from waypoint to waypoint: cubic or quintic, with what is
// given at the waypoints kept exactly, and what is left open chosen.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "elbowroom/base/spline.hpp"
#include "elbowroom/base/verdict.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er {

/// A place on the way. What is left out is chosen.
struct TimedWaypoint {
  std::string name = {};  ///< for messages; "" is its number
  Posture position;
  std::optional<Posture> velocity = {};
  std::optional<Posture> acceleration = {};  ///< of quintics only
  std::optional<double> after = {};          ///< s, since the waypoint before
};

/// What happens at waypoints on the way that say nothing of their velocity.
enum class OnTheWay {
  stop,    ///< at rest there, without acceleration where the degree allows
  smooth,  ///< passed with continuous acceleration (cubics) or jerk and its derivative (quintics)
};

struct PolynomialOptions {
  SplineDegree degree = SplineDegree::quintic;
  OnTheWay on_the_way = OnTheWay::smooth;
  SplineEnds ends = SplineEnds::clamped;
  /// Share of every velocity limit that may be used where durations are chosen, above 0 to 1.
  double speed = 1.0;
};

/// A joint goes beyond the values at both ends of a stretch.
struct Overshoot {
  int joint = 0;
  int stretch = 0;      ///< from 1
  double beyond = 0.0;  ///< rad or m, above zero
  double time = 0.0;    ///< s, of the whole motion
};

struct PolynomialMotion {
  Motion motion = {};
  MotionPeaks peaks;
  std::vector<SplineKnot> knots = {};  ///< with all that was given or follows from the options
  std::vector<SplineEquation> equations = {};  ///< that the derivatives at the waypoints solve
  std::vector<double> durations = {};          ///< of the stretches, s
  std::vector<bool> chosen = {};               ///< whether that duration was left to be chosen
  std::vector<Overshoot> overshoots = {};
  /// The largest jump of acceleration between stretches, or from and to rest at the ends; its share
  /// is rad/s^2 or m/s^2.
  PeakUse jump;
  PolynomialOptions options;

  [[nodiscard]] std::string summary() const;
  /// What else there is to say of it, a line each: overshoots, jumps of acceleration.
  [[nodiscard]] std::string notes(const Arm& arm) const;
};

/// "cubic" or "quintic"; "stop" or "smooth"; "clamped", "natural" or "periodic". Each throws
/// InputError with the nearest known name.
SplineDegree degree_named(std::string_view name);
OnTheWay on_the_way_named(std::string_view name);
SplineEnds ends_named(std::string_view name);

/// The polynomials, whether or not they keep the limits (polynomial_breach). Durations that are not
/// given are the shortest that keep all limits of velocity, acceleration and jerk inside the
/// stretches: of stretches from rest to rest exactly; otherwise no single one of up to 40 could be
/// shorter by more than a thousandth. A no when no duration does. Throws InputError for fewer than
/// two waypoints, a duration that is not above zero, two waypoints alike without one, values that
/// are no numbers, and what splines refuse; and for a limit that is not stated where a duration is
/// to be chosen.
Verdict<PolynomialMotion> polynomial_motion(const std::vector<TimedWaypoint>& waypoints,
                                            const Arm& arm, const PolynomialOptions& options = {});

/// Nothing when a polynomial motion keeps the ranges of the joints and its limits; or what it
/// breaks worst, and how many times as long would do, where that is all it takes.
std::optional<Reason> polynomial_breach(const PolynomialMotion& paced, const Arm& arm);

/// For those who want to see how it is worked out: what is given at the waypoints, the linear
/// equations and their solution, coefficients of each joint and stretch, which of them vanish and
/// why, and what is left of each condition when the polynomials are put back in. Degrees and
/// millimetres.
std::string coefficient_tables(const PolynomialMotion& paced, const Arm& arm);

}  // namespace er
