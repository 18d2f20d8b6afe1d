#include "elbowroom/base/polynomial.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace er {
namespace {

// Where the polynomial changes sign between a and b: Newton's steps, kept between.
double root_between(const Quintic& c, double a, double b) {
  const bool rising = value_at(c, a) < 0.0;
  double x = 0.5 * (a + b);
  for (int i = 0; i < 100; ++i) {
    const ValueAndDerivatives at = all_at(c, x);
    ((at.value < 0.0) == rising ? a : b) = x;
    double next = x - at.value / at.first;
    if (!(next > a && next < b)) next = 0.5 * (a + b);
    if (next <= a || next >= b || std::abs(next - x) <= 1e-16 * std::abs(x)) return next;
    x = next;
  }
  return x;
}

// Of c0 + c1 t + c2 t^2, in (0, end), in order.
Roots roots_of_quadratic(const Quintic& c, double end) {
  Roots out;
  const auto add = [&](double t) {
    if (t > 0.0 && t < end) out.at[out.count++] = t;
  };
  if (c[2] == 0.0) {
    if (c[1] != 0.0) add(-c[0] / c[1]);
    return out;
  }
  const double square = c[1] * c[1] - 4.0 * c[0] * c[2];
  if (square < 0.0) return out;
  // The one that does not cancel first, the other from the product of both.
  const double q = -0.5 * (c[1] + std::copysign(std::sqrt(square), c[1]));
  const double first = q / c[2];
  const double second = q != 0.0 ? c[0] / q : first;
  add(std::min(first, second));
  if (first != second) add(std::max(first, second));
  return out;
}

// Sign changes in [0, end]; between two roots of the derivative there is one at most.
Roots roots_of(const Quintic& c, double end, int degree) {
  if (degree <= 2) return roots_of_quadratic(c, end);
  Roots out;
  const Roots turning = roots_of(derivative_of(c), end, degree - 1);
  double from = 0.0;
  double f = c[0];
  for (std::size_t i = 0; i <= turning.count; ++i) {
    const double to = i < turning.count ? turning.at[i] : end;
    const double g = value_at(c, to);
    if (f == 0.0) out.at[out.count++] = from;
    if ((f < 0.0 && g > 0.0) || (f > 0.0 && g < 0.0))
      out.at[out.count++] = root_between(c, from, to);
    from = to;
    f = g;
  }
  return out;
}

// The highest power with a coefficient.
int degree_of(const Quintic& c) {
  int degree = 5;
  while (degree > 0 && c[static_cast<std::size_t>(degree)] == 0.0) --degree;
  return degree;
}

}  // namespace

double value_at(const Quintic& c, double t, int order) {
  if (order == 0) return c[0] + t * (c[1] + t * (c[2] + t * (c[3] + t * (c[4] + t * c[5]))));
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

Quintic shifted(const Quintic& c, double by) {
  Quintic out = c;
  // Horner's scheme, once for each power.
  for (std::size_t first = 0; first < 5; ++first)
    for (std::size_t k = 4; k + 1 > first; --k) {
      out[k] += by * out[k + 1];
      if (k == 0) break;
    }
  return out;
}

Quintic cubic_between(const EndValues& from, const EndValues& to, double length) {
  const double slope = (to.value - from.value) / length;
  return {from.value,
          from.first,
          (3.0 * slope - 2.0 * from.first - to.first) / length,
          (from.first + to.first - 2.0 * slope) / (length * length),
          0.0,
          0.0};
}

Quintic quintic_between(const EndValues& from, const EndValues& to, double length) {
  const double h = length;
  const double h2 = h * h;
  const double rise = to.value - from.value;
  const double third = 0.5 / (h2 * h);
  const double fourth = third / h;
  return {from.value,
          from.first,
          0.5 * from.second,
          (20.0 * rise - (8.0 * to.first + 12.0 * from.first) * h -
           (3.0 * from.second - to.second) * h2) *
              third,
          (-30.0 * rise + (14.0 * to.first + 16.0 * from.first) * h +
           (3.0 * from.second - 2.0 * to.second) * h2) *
              fourth,
          (12.0 * rise - 6.0 * (to.first + from.first) * h + (to.second - from.second) * h2) *
              (fourth / h)};
}

double bound_over(const Quintic& c, double end) {
  // Coefficients in the basis of Bernstein: b_i = sum over k of (i over k) / (5 over k) c_k end^k.
  static constexpr double kOver[6] = {1.0, 1.0 / 5.0, 1.0 / 10.0, 1.0 / 10.0, 1.0 / 5.0, 1.0};
  std::array<double, 6> b{};
  double power = 1.0;
  for (std::size_t k = 0; k < 6; ++k) {
    b[k] = c[k] * power * kOver[k];
    power *= end;
  }
  // Times Pascal's triangle.
  for (std::size_t first = 1; first < 6; ++first)
    for (std::size_t i = 5; i >= first; --i) b[i] += b[i - 1];
  double most = 0.0;
  for (const double one : b) most = std::max(most, std::abs(one));
  return most;
}

Extremes extremes_of(const Quintic& c, double end) {
  Extremes out{value_at(c, 0.0), value_at(c, 0.0), 0.0, 0.0};
  const auto consider = [&](double t) {
    const double value = value_at(c, t);
    if (value < out.low) out.low = value, out.low_at = t;
    if (value > out.high) out.high = value, out.high_at = t;
  };
  consider(end);
  const Roots turning = roots_of(derivative_of(c), end, std::max(degree_of(c) - 1, 0));
  for (std::size_t i = 0; i < turning.count; ++i) consider(turning.at[i]);
  return out;
}

Roots zeros_of(const Quintic& c, double end) {
  // Most are nowhere near zero.
  Quintic change = c;
  change[0] = 0.0;
  if (std::abs(c[0]) > bound_over(change, end)) return {};
  return roots_of(c, end, degree_of(c));
}

double first_beyond(const Quintic& c, double end, double level) {
  if (std::abs(c[0]) > level) return 0.0;
  double first = std::numeric_limits<double>::infinity();
  for (const double side : {level, -level}) {
    Quintic off = c;
    off[0] -= side;
    const Roots roots = roots_of(off, end, degree_of(off));
    for (std::size_t i = 0; i < roots.count; ++i) {
      // A little further on: where it only touches, it is not beyond.
      const double next = i + 1 < roots.count ? roots.at[i + 1] : end;
      const double after = 0.5 * (roots.at[i] + next);
      if (std::abs(value_at(c, after)) > level) {
        first = std::min(first, roots.at[i]);
        break;
      }
    }
  }
  return first;
}

}  // namespace er
