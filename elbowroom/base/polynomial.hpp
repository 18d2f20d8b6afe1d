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

/// The value and three derivatives at once.
struct ValueAndDerivatives {
  double value = 0.0;
  double first = 0.0;
  double second = 0.0;
  double third = 0.0;
};
inline ValueAndDerivatives all_at(const Quintic& c, double t) {
  return {c[0] + t * (c[1] + t * (c[2] + t * (c[3] + t * (c[4] + t * c[5])))),
          c[1] + t * (2 * c[2] + t * (3 * c[3] + t * (4 * c[4] + t * (5 * c[5])))),
          2 * c[2] + t * (6 * c[3] + t * (12 * c[4] + t * (20 * c[5]))),
          6 * c[3] + t * (24 * c[4] + t * (60 * c[5]))};
}

Quintic derivative_of(const Quintic& c);

/// The same polynomial of t + by.
Quintic shifted(const Quintic& c, double by);

/// A value and its derivatives at one end.
struct EndValues {
  double value = 0.0;
  double first = 0.0;
  double second = 0.0;
};

/// The cubic over [0, length] with these values and first derivatives at its ends.
Quintic cubic_between(const EndValues& from, const EndValues& to, double length);
/// The quintic with these values and both derivatives at its ends.
Quintic quintic_between(const EndValues& from, const EndValues& to, double length);

/// At least the largest |value| over [0, end], and not much more over short stretches; cheap.
double bound_over(const Quintic& c, double end);

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

/// Places of a polynomial, ascending.
struct Roots {
  std::array<double, 8> at{};
  std::size_t count = 0;
};

/// Where in [0, end] the polynomial passes zero, each to rounding.
Roots zeros_of(const Quintic& c, double end);

/// The first t in [0, end] from which |value| is above `level` (zero or more); `end` and more when
/// there is none.
double first_beyond(const Quintic& c, double end, double level);

}  // namespace er
