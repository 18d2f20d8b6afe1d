// x = (dz/dt)^2 along a path, as a spline of second degree, and sums of squares of it.
#pragma once

#include <array>
#include <cstddef>
#include <vector>

namespace er {

/// A symmetric matrix with two diagonals beside the middle one: of[d][i] is in row i, column i - d.
struct BandMatrix {
  std::array<std::vector<double>, 3> of;

  void clear(std::size_t size) {
    for (auto& diagonal : of) diagonal.assign(size, 0.0);
  }
};

/// Solves band x = right by L D L^T, in place of both.
void solve(BandMatrix& band, std::vector<double>& x);

/// A spline with a knot between any two intervals. Three coefficients bear on an interval: those
/// from its own number on.
class SpeedSpline {
 public:
  using Values = std::vector<double>;

  /// Lengths of the intervals in z, which the owner keeps.
  explicit SpeedSpline(const Values& lengths);

  /// x, its slope and its bend.
  using Local = std::array<double, 3>;
  [[nodiscard]] double at_knot(const Values& c, std::size_t i) const {
    return here_[i] * c[i] + (1.0 - here_[i]) * c[i + 1];
  }
  [[nodiscard]] Local at(const Values& c, std::size_t interval, double by) const {
    const double slope = slope_at_knot(c, interval);
    const double bend = (slope_at_knot(c, interval + 1) - slope) / lengths_[interval];
    return {at_knot(c, interval) + by * (slope + 0.5 * by * bend), slope + by * bend, bend};
  }

  /// Where in z each coefficient counts most: the ends, and the middles of intervals. There the
  /// spline is nearly its coefficient.
  [[nodiscard]] Values places() const;
  /// At several places, which ascend.
  [[nodiscard]] Values values_at(const Values& c, const Values& places) const;

  /// The least x of an interval.
  [[nodiscard]] double least(const Values& c, std::size_t interval) const;

  /// How x, slope and bend where an interval begins come from its three coefficients.
  using Dependence = std::array<Local, 3>;
  [[nodiscard]] Dependence dependence(std::size_t interval) const;

  /// The time that an interval takes: five points of Gauss and Legendre.
  [[nodiscard]] double duration(const Values& c, std::size_t interval) const;
  /// What the value at a knot counts in the whole duration, by trapezoids.
  [[nodiscard]] double weight(std::size_t knot) const { return 1.0 / slope_[knot]; }
  /// What x at a knot has of the coefficient before it.
  [[nodiscard]] double here(std::size_t knot) const { return here_[knot]; }

 private:
  [[nodiscard]] double slope_at_knot(const Values& c, std::size_t i) const {
    return slope_[i] * (c[i + 1] - c[i]);
  }

  const Values& lengths_;
  Values here_;
  Values slope_;  // of x at a knot, by the difference of coefficients beside it
};

}  // namespace er
