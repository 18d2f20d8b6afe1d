// How well a constant tool speed is kept.
#pragma once

#include <string>

#include "elbowroom/model/arm.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er {

struct SteadySpeed {
  double asked = 0.0;     ///< m/s
  double length = 0.0;    ///< of the tip's whole way, m
  double at_speed = 0.0;  ///< of it, m: within 1 % of what was asked
  /// Between the ramps, from where the speed is first reached to where it is last left; without
  /// such a place the whole way. Least and largest speed there, m/s.
  double least = 0.0;
  double largest = 0.0;
  double mean = 0.0;      ///< m/s, over time, between the ramps
  double least_at = 0.0;  ///< m, along the way
  bool reached = false;   ///< anywhere
  /// Within 1 % all the way between the ramps, and they leave it half of the way or more.
  bool kept = false;

  [[nodiscard]] std::string text() const;
};

/// From about 2000 samples.
SteadySpeed steady_speed(const Motion& motion, const Arm& arm, const Tool& tool, double asked);

}  // namespace er
