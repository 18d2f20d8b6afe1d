// Numbers as texts for people tell them (text_length, text_angle): what is promised in a text has
// to be true of the figures in it, and not of the digits that it leaves out.
#pragma once

#include <cmath>
#include <numbers>

namespace er {

inline constexpr double kToldLength = 1e-4;  ///< m: the last digit of text_length
inline constexpr double kToldAngle = 1e-2 * std::numbers::pi / 180;  ///< rad: that of text_angle

/// The nearest that is told, and the next ones below and above, of a last digit of `step`.
inline double told(double value, double step) { return std::round(value / step) * step; }
inline double told_below(double value, double step) {
  return std::floor(value / step + 1e-6) * step;
}
inline double told_above(double value, double step) {
  return std::ceil(value / step - 1e-6) * step;
}

}  // namespace er
