// Equations in the cosine and sine of one angle.
#pragma once

#include <vector>

namespace er {

/// The same angle within [-pi, pi].
double wrapped(double angle);

/// Up to two angles.
struct TwoAngles {
  int count = 0;
  bool any = false;  ///< every angle does it; one is given
  double angle[2] = {0.0, 0.0};
};

/// The angles with a cos + b sin = c, within [-pi, pi]. When |c| is greater than hypot(a, b) by a
/// share of at most `slack`, the one angle that comes nearest, as at full stretch.
TwoAngles solve_cosine_sine(double a, double b, double c, double slack = 1e-9);

/// f(t) = c[0] + sum over k = 1..n of c[2k-1] cos(k t) + c[2k] sin(k t).
class TrigPolynomial {
 public:
  explicit TrigPolynomial(std::vector<double> coefficients);
  /// Through 2n + 1 or more values at evenly spaced angles 0, 2 pi / N, ...
  static TrigPolynomial through(const std::vector<double>& values, int degree);

  [[nodiscard]] int degree() const { return static_cast<int>(c_.size()) / 2; }
  struct Value {
    double f = 0.0;
    double first = 0.0;  // derivatives
    double second = 0.0;
  };
  [[nodiscard]] Value at(double t) const;

  /// Every real root in [-pi, pi), isolated by bounds on the third derivative: a stretch is passed
  /// over only when the polynomial is proved to have no root in it. Where it comes so close to zero
  /// without a change of sign that rounding (`noise`, of the sum of the coefficients' sizes) does
  /// not allow to say, the nearest point is listed, too: callers check what they get. A polynomial
  /// that is all but zero ends the search at some 64 such points.
  [[nodiscard]] std::vector<double> roots(double noise = 1e-13) const;

 private:
  std::vector<double> c_;
};

}  // namespace er
