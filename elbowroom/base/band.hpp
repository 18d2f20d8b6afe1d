// A band: the values that something may take.
#pragma once

#include <limits>

namespace er {

/// From lower to upper, both included. By itself exactly zero.
struct Band {
  double lower = 0.0;
  double upper = 0.0;

  static constexpr Band free() {
    return {-std::numeric_limits<double>::infinity(), std::numeric_limits<double>::infinity()};
  }
  static constexpr Band exactly(double value) { return {value, value}; }
  static constexpr Band up_to(double value) { return {0.0, value}; }

  [[nodiscard]] constexpr bool is_free() const {
    return lower == -std::numeric_limits<double>::infinity() &&
           upper == std::numeric_limits<double>::infinity();
  }
  [[nodiscard]] constexpr bool is_exact() const { return lower == upper; }
  /// How far outside a value is: above zero past upper, below zero short of lower, zero inside.
  [[nodiscard]] constexpr double outside(double value) const {
    if (value > upper) return value - upper;
    if (value < lower) return value - lower;
    return 0.0;
  }
};

}  // namespace er
