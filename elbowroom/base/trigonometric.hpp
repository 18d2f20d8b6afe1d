// Equations in the cosine and sine of one angle.
#pragma once

#include <array>
#include <cstddef>

namespace er {

/// The same angle within [-pi, pi].
double wrapped(double angle);

/// What two angles, or lengths of a few metres, may differ by that rounding parts where they come
/// together, as at full stretch: half of the digits are left there.
constexpr double kHalfOfDigits = 1e-7;

/// Up to two angles.
struct TwoAngles {
  int count = 0;
  bool any = false;  ///< every angle does it; one is given
  double angle[2] = {0.0, 0.0};
};

/// The angles with a cos + b sin = c, within [-pi, pi]. When |c| is greater than hypot(a, b) by a
/// share of at most `slack`, the one angle that comes nearest, as at full stretch.
TwoAngles solve_cosine_sine(double a, double b, double c, double slack = kHalfOfDigits);

/// The cosines and sines of 0, 2 pi / count, 4 pi / count, ...: worked out once for many
/// polynomials.
struct EvenAngles {
  static constexpr int kMost = 32;
  explicit EvenAngles(int count);

  int count;
  std::array<double, kMost> cosine;
  std::array<double, kMost> sine;
};

/// Real roots in [-pi, pi), in ascending order.
struct TrigRoots {
  static constexpr int kMost = 64;
  int count = 0;
  std::array<double, kMost> at = {};
  /// Each is the one root of its stretch, and there are no others. False where the polynomial comes
  /// so close to zero without a change of sign that rounding does not allow to say; the nearest
  /// point is listed then.
  bool all_isolated = true;
  /// Where it all but touches zero between roots: to within a share of 1e-11. Not for rounding of
  /// its coefficients, but what they came from may know of a double root there.
  static constexpr int kMostTouches = 8;
  int touches = 0;
  std::array<double, kMostTouches> touch = {};

  [[nodiscard]] const double* begin() const { return at.data(); }
  [[nodiscard]] const double* end() const { return at.data() + count; }
};

/// f(t) = c[0] + sum over k = 1..n of c[2k-1] cos(k t) + c[2k] sin(k t), n at most 8.
class TrigPolynomial {
 public:
  static constexpr int kMostDegree = 8;
  using Coefficients = std::array<double, std::size_t{2 * kMostDegree + 1}>;

  TrigPolynomial(const Coefficients& coefficients, int degree)
      : c_(coefficients), degree_(degree) {}
  /// Through one value for each of the angles, which are at least 2 degree + 1. With more values
  /// than it takes, what they hold of higher orders is their noise.
  static TrigPolynomial through(const double* values, const EvenAngles& angles, int degree);

  [[nodiscard]] int degree() const { return degree_; }

  /// Every real root, isolated by bounds on the fourth derivative: a stretch is passed over only
  /// when the polynomial is proved to have no root in it. `noise` is rounding, as a share of the
  /// sum of the coefficients' sizes; that seen in the values counts if it is more. A polynomial
  /// that is all but zero ends the search at 64 points. Allocates nothing.
  [[nodiscard]] TrigRoots roots(double noise = 1e-13) const;

 private:
  Coefficients c_;
  int degree_;
  double noise_seen_ = 0.0;
};

}  // namespace er
