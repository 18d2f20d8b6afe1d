#include "elbowroom/base/polynomial.hpp"

#include <cmath>

namespace er {
namespace {

struct Roots {
  std::array<double, 8> at{};
  std::size_t count = 0;
};

// Bisection to the last bit between a and b, where the polynomial changes sign.
double root_between(const Quintic& c, double a, double b) {
  const bool rising = value_at(c, a) < 0.0;
  for (int i = 0; i < 200; ++i) {
    const double middle = 0.5 * (a + b);
    if (middle <= a || middle >= b) break;
    ((value_at(c, middle) < 0.0) == rising ? a : b) = middle;
  }
  return 0.5 * (a + b);
}

// Sign changes in [0, end]; between two roots of the derivative there is one at most.
Roots roots_of(const Quintic& c, double end, int degree) {
  Roots out;
  if (degree < 1) return out;
  const Roots turning = roots_of(derivative_of(c), end, degree - 1);
  double from = 0.0;
  for (std::size_t i = 0; i <= turning.count; ++i) {
    const double to = i < turning.count ? turning.at[i] : end;
    const double f = value_at(c, from);
    const double g = value_at(c, to);
    if (f == 0.0) out.at[out.count++] = from;
    if ((f < 0.0 && g > 0.0) || (f > 0.0 && g < 0.0))
      out.at[out.count++] = root_between(c, from, to);
    from = to;
  }
  return out;
}

}  // namespace

double value_at(const Quintic& c, double t, int order) {
  double value = 0.0;
  for (int power = 5; power >= order; --power) {
    double factor = 1.0;
    for (int k = 0; k < order; ++k) factor *= power - k;
    value = value * t + factor * c[static_cast<std::size_t>(power)];
  }
  return value;
}

Quintic derivative_of(const Quintic& c) {
  return {c[1], 2 * c[2], 3 * c[3], 4 * c[4], 5 * c[5], 0.0};
}

Extremes extremes_of(const Quintic& c, double end) {
  Extremes out{value_at(c, 0.0), value_at(c, 0.0), 0.0, 0.0};
  const auto consider = [&](double t) {
    const double value = value_at(c, t);
    if (value < out.low) out.low = value, out.low_at = t;
    if (value > out.high) out.high = value, out.high_at = t;
  };
  consider(end);
  const Roots turning = roots_of(derivative_of(c), end, 4);
  for (std::size_t i = 0; i < turning.count; ++i) consider(turning.at[i]);
  return out;
}

}  // namespace er
