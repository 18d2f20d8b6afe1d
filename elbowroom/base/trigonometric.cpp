#include "elbowroom/base/trigonometric.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace er {
namespace {

constexpr double kPi = std::numbers::pi;
constexpr double kNarrowest = 1e-8;  // rad; a stretch this short is one point
constexpr double kSameDoubt = 1e-5;  // rad; of several doubtful points this near, one is listed
constexpr std::size_t kMostListed = 64;
constexpr int kMostStretches = 4000;  // a polynomial that is all but zero ends here

// The root between two places of different sign, by Newton kept within the bracket.
double root_between(const TrigPolynomial& f, double low, double high, double at_low) {
  double t = 0.5 * (low + high);
  for (int i = 0; i < 60 && high - low > 1e-15; ++i) {
    const TrigPolynomial::Value v = f.at(t);
    if (v.f == 0.0) return t;
    ((v.f > 0.0) == (at_low > 0.0) ? low : high) = t;
    const double newton = t - v.f / v.first;
    const double next = newton > low && newton < high ? newton : 0.5 * (low + high);
    if (std::abs(next - t) < 1e-15) return next;
    t = next;
  }
  return t;
}

}  // namespace

double wrapped(double angle) { return std::remainder(angle, 2.0 * kPi); }

TwoAngles solve_cosine_sine(double a, double b, double c, double slack) {
  const double size = std::sqrt(a * a + b * b);
  TwoAngles out;
  if (size < 1e-12) {
    out.any = std::abs(c) < 1e-9;
    if (out.any) out.count = 1;
    return out;
  }
  if (std::abs(c) > size * (1.0 + slack)) return out;
  const double middle = std::atan2(b, a);
  const double ratio = c / size;
  const double half = std::abs(ratio) >= 1.0 ? (ratio > 0.0 ? 0.0 : kPi) : std::acos(ratio);
  out.angle[out.count++] = wrapped(middle + half);
  if (half != 0.0 && half != kPi) out.angle[out.count++] = wrapped(middle - half);
  return out;
}

TrigPolynomial::TrigPolynomial(std::vector<double> coefficients) : c_(std::move(coefficients)) {}

TrigPolynomial TrigPolynomial::through(const std::vector<double>& values, int degree) {
  const auto count = static_cast<int>(values.size());
  std::vector<double> c(static_cast<std::size_t>(2 * degree + 1), 0.0);
  for (int i = 0; i < count; ++i) {
    const double value = values[static_cast<std::size_t>(i)] / count;
    c[0] += value;
    for (int k = 1; k <= degree; ++k) {
      const double angle = 2.0 * kPi * static_cast<double>((i * k) % count) / count;
      c[static_cast<std::size_t>(2 * k - 1)] += 2.0 * value * std::cos(angle);
      c[static_cast<std::size_t>(2 * k)] += 2.0 * value * std::sin(angle);
    }
  }
  return TrigPolynomial(std::move(c));
}

TrigPolynomial::Value TrigPolynomial::at(double t) const {
  Value out{c_[0], 0.0, 0.0};
  const double c1 = std::cos(t);
  const double s1 = std::sin(t);
  double c = 1.0;
  double s = 0.0;
  for (std::size_t k = 1; 2 * k < c_.size(); ++k) {
    const double next = c * c1 - s * s1;
    s = s * c1 + c * s1;
    c = next;
    const double order = static_cast<double>(k);
    const double even = c_[2 * k - 1] * c + c_[2 * k] * s;
    out.f += even;
    out.first += order * (c_[2 * k] * c - c_[2 * k - 1] * s);
    out.second -= order * order * even;
  }
  return out;
}

std::vector<double> TrigPolynomial::roots(double noise) const {
  double third = 0.0;  // no third derivative is larger
  double size = std::abs(c_[0]);
  for (std::size_t k = 1; 2 * k < c_.size(); ++k) {
    const double part = std::hypot(c_[2 * k - 1], c_[2 * k]);
    third += part * std::pow(static_cast<double>(k), 3);
    size += part;
  }
  const double floor = noise * size;
  std::vector<double> found;
  const auto add = [&](double t, double same) {
    t = wrapped(t);
    if (t >= kPi) t -= 2 * kPi;
    const bool known = std::any_of(found.begin(), found.end(), [&](double other) {
      return std::abs(wrapped(t - other)) < same;
    });
    if (!known) found.push_back(t);
  };
  struct Stretch {
    double middle;
    double half;
  };
  std::vector<Stretch> open;
  const int pieces = std::max(4, 4 * degree());
  for (int i = 0; i < pieces; ++i)
    open.push_back({-kPi + (2 * i + 1) * kPi / pieces, kPi / pieces});
  for (int stretches = 0; !open.empty() && found.size() <= kMostListed; ++stretches) {
    const auto [middle, half] = open.back();
    open.pop_back();
    const Value v = at(middle);
    const double rest = third * half * half * half / 6.0;
    if (std::abs(v.f) - std::abs(v.first) * half - 0.5 * std::abs(v.second) * half * half - rest >
        floor)
      continue;  // no root here
    const bool monotone =
        std::abs(v.first) - std::abs(v.second) * half - 0.5 * third * half * half > 0.0;
    if (monotone) {
      const double low = at(middle - half).f;
      const double high = at(middle + half).f;
      if ((low > 0.0) != (high > 0.0)) {
        add(root_between(*this, middle - half, middle + half, low), 1e-14);
      } else if (std::min(std::abs(low), std::abs(high)) <= floor) {
        add(std::abs(low) < std::abs(high) ? middle - half : middle + half, kSameDoubt);
      }
      continue;
    }
    if (half < kNarrowest || stretches > kMostStretches) {
      add(middle, kSameDoubt);
      continue;
    }
    open.push_back({middle - 0.5 * half, 0.5 * half});
    open.push_back({middle + 0.5 * half, 0.5 * half});
  }
  std::sort(found.begin(), found.end());
  return found;
}

}  // namespace er
