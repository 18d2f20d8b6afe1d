// x = (dz/dt)^2 along a path, as a spline of second degree, and sums of squares of it.
#pragma once

#include <Eigen/Core>
#include <array>
#include <vector>

namespace er {

/// A symmetric matrix with two diagonals beside the middle one: of[d][i] is in row i, column i - d.
struct BandMatrix {
  std::array<Eigen::ArrayXd, 3> of;

  void clear(Eigen::Index size) {
    for (auto& diagonal : of) diagonal.setZero(size);
  }
};

/// Solves band x = right by L D L^T, in place of both.
void solve(BandMatrix& band, Eigen::ArrayXd& x);

/// A spline with a knot between any two intervals. Three coefficients bear on an interval: those
/// from its own number on.
class SpeedSpline {
 public:
  using Values = Eigen::ArrayXd;

  /// From the lengths of the intervals in z.
  explicit SpeedSpline(const std::vector<double>& lengths);

  /// Of c; two more than intervals.
  [[nodiscard]] Eigen::Index coefficients() const { return lengths_.size() + 2; }

  /// x, its slope and its bend.
  using Local = std::array<double, 3>;
  [[nodiscard]] Values at_knots(const Values& c) const {
    return here_ * c.head(here_.size()) + (1.0 - here_) * c.tail(here_.size());
  }
  [[nodiscard]] Local at(const Values& c, Eigen::Index interval, double by) const {
    const double slope = slope_at_knot(c, interval);
    const double bend = (slope_at_knot(c, interval + 1) - slope) / lengths_[interval];
    return {at_knot(c, interval) + by * (slope + 0.5 * by * bend), slope + by * bend, bend};
  }

  /// Where in z each coefficient counts most: the ends, and the middles of intervals. There the
  /// spline is nearly its coefficient.
  [[nodiscard]] Values places() const;
  /// At several places, which ascend.
  [[nodiscard]] Values values_at(const Values& c, const Values& places) const;

  /// The least x, from that at the knots, too.
  [[nodiscard]] double least(const Values& c, const Values& at_knots) const;

  /// How x, slope and bend where an interval begins come from its three coefficients.
  using Dependence = std::array<Local, 3>;
  [[nodiscard]] Dependence dependence(Eigen::Index interval) const;

  /// The time that an interval takes: five points of Gauss and Legendre.
  [[nodiscard]] double duration(const Values& c, Eigen::Index interval) const;
  /// What the value at each knot counts in the whole duration, by trapezoids.
  [[nodiscard]] const Values& weights() const { return weights_; }
  /// What x at each knot has of the coefficient before it.
  [[nodiscard]] const Values& here() const { return here_; }

 private:
  [[nodiscard]] double at_knot(const Values& c, Eigen::Index i) const {
    return here_[i] * c[i] + (1.0 - here_[i]) * c[i + 1];
  }
  [[nodiscard]] double slope_at_knot(const Values& c, Eigen::Index i) const {
    return slope_[i] * (c[i + 1] - c[i]);
  }

  Values lengths_;
  Values here_;
  Values weights_;
  Values slope_;  // of x at a knot, by the difference of coefficients beside it
};

}  // namespace er
