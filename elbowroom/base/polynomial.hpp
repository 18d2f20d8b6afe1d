// Polynomials of one variable, up to degree 5: values, derivatives, and the largest value they
// take.
#pragma once

#include <array>
#include <cstddef>

namespace er {

/// Ascending powers: c[0] + c[1] t + ... + c[5] t^5.
using Quintic = std::array<double, 6>;

/// The value of the `order`-th derivative at t.
double value_at(const Quintic& c, double t, int order = 0);

Quintic derivative_of(const Quintic& c);

/// Where in [0, end] the polynomial is highest and lowest.
struct Extremes {
  double low = 0.0;
  double high = 0.0;
  double low_at = 0.0;
  double high_at = 0.0;
};

/// Exact to rounding: looks at both ends and at every root of the derivative. Roots are found
/// between the roots of the next derivative, so none is missed.
Extremes extremes_of(const Quintic& c, double end);

}  // namespace er
