#include "elbowroom/pace/speed_spline.hpp"

#include <algorithm>
#include <cmath>

namespace er {

void solve(BandMatrix& band, Eigen::ArrayXd& x) {
  auto& [d, one, two] = band.of;
  const Eigen::Index n = d.size();
  // What each row takes of the two before it, in their order; a first one takes nothing.
  double over[2] = {0.0, 0.0};   // one over their d
  double value[2] = {0.0, 0.0};  // x
  double lower = 0.0;            // `one` of the second
  for (Eigen::Index i = 0; i < n; ++i) {
    const double to_first = two[i] * over[0];
    const double left = one[i] - two[i] * lower;
    const double to_second = left * over[1];
    d[i] -= to_first * two[i] + to_second * left;
    x[i] -= to_first * value[0] + to_second * value[1];
    two[i] = to_first;
    one[i] = lower = to_second;
    over[0] = over[1];
    over[1] = 1.0 / d[i];
    value[0] = value[1];
    value[1] = x[i];
  }
  value[0] = value[1] = 0.0;  // of the two after it
  for (Eigen::Index i = n - 1; i >= 0; --i) {
    const double by_next = i + 1 < n ? one[i + 1] : 0.0;
    const double by_second = i + 2 < n ? two[i + 2] : 0.0;
    x[i] = x[i] / d[i] - by_next * value[0] - by_second * value[1];
    value[1] = value[0];
    value[0] = x[i];
  }
}

SpeedSpline::SpeedSpline(const std::vector<double>& lengths)
    : lengths_(Values::Map(lengths.data(), static_cast<Eigen::Index>(lengths.size()))) {
  const Eigen::Index knots = lengths_.size() + 1;
  Values before = Values::Zero(knots);
  Values after = Values::Zero(knots);
  before.tail(lengths_.size()) = lengths_;
  after.head(lengths_.size()) = lengths_;
  weights_ = 0.5 * (before + after);
  slope_ = weights_.inverse();
  here_ = 0.5 * after * slope_;
}

SpeedSpline::Values SpeedSpline::places() const {
  Values out(coefficients());
  double start = 0.0;
  out[0] = 0.0;
  for (Eigen::Index i = 0; i < lengths_.size(); ++i) {
    out[i + 1] = start + 0.5 * lengths_[i];
    start += lengths_[i];
  }
  out[lengths_.size() + 1] = start;
  return out;
}

SpeedSpline::Values SpeedSpline::values_at(const Values& c, const Values& places) const {
  Values out(places.size());
  Eigen::Index interval = 0;
  double start = 0.0;
  for (Eigen::Index i = 0; i < places.size(); ++i) {
    while (interval + 1 < lengths_.size() && places[i] > start + lengths_[interval])
      start += lengths_[interval++];
    out[i] = at(c, interval, std::min(places[i] - start, lengths_[interval]))[0];
  }
  return out;
}

double SpeedSpline::least(const Values& c, const Values& at_knots) const {
  // At a knot, or between where the slope changes its sign from below.
  double out = at_knots.minCoeff();
  double slope = slope_at_knot(c, 0);
  for (Eigen::Index i = 0; i < lengths_.size(); ++i) {
    const double next = slope_at_knot(c, i + 1);
    if (slope < 0.0 && next > 0.0)
      out = std::min(out, at_knots[i] - 0.5 * slope * slope * lengths_[i] / (next - slope));
    slope = next;
  }
  return out;
}

SpeedSpline::Dependence SpeedSpline::dependence(Eigen::Index i) const {
  const double over = 1.0 / lengths_[i];
  return {Local{here_[i], 1.0 - here_[i], 0.0}, Local{-slope_[i], slope_[i], 0.0},
          Local{slope_[i] * over, -(slope_[i] + slope_[i + 1]) * over, slope_[i + 1] * over}};
}

double SpeedSpline::duration(const Values& c, Eigen::Index interval) const {
  constexpr std::array<double, 5> kAt{0.0469100770306680, 0.2307653449471585, 0.5,
                                      0.7692346550528415, 0.9530899229693320};
  constexpr std::array<double, 5> kWeight{0.1184634425280945, 0.2393143352496832,
                                          0.2844444444444444, 0.2393143352496832,
                                          0.1184634425280945};
  const double h = lengths_[interval];
  double sum = 0.0;
  for (std::size_t g = 0; g < 5; ++g)
    sum += h * kWeight[g] / std::sqrt(at(c, interval, h * kAt[g])[0]);
  return sum;
}

}  // namespace er
