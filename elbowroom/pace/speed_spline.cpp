#include "elbowroom/pace/speed_spline.hpp"

#include <algorithm>
#include <cmath>

namespace er {

void solve(BandMatrix& band, std::vector<double>& x) {
  auto& [d, one, two] = band.of;
  const std::size_t n = d.size();
  // Times the inverse of the middle, which is what each row waits for.
  double over = 0.0;
  double over_before = 0.0;
  for (std::size_t i = 0; i < n; ++i) {
    if (i >= 2) {
      const double l = two[i] * over_before;
      one[i] -= two[i] * one[i - 1];
      d[i] -= l * two[i];
      two[i] = l;
      x[i] -= l * x[i - 2];
    }
    if (i >= 1) {
      const double l = one[i] * over;
      d[i] -= l * one[i];
      one[i] = l;
      x[i] -= l * x[i - 1];
    }
    over_before = over;
    over = 1.0 / d[i];
  }
  for (std::size_t i = n; i-- > 0;) {
    x[i] /= d[i];
    if (i + 1 < n) x[i] -= one[i + 1] * x[i + 1];
    if (i + 2 < n) x[i] -= two[i + 2] * x[i + 2];
  }
}

SpeedSpline::SpeedSpline(const Values& lengths) : lengths_(lengths) {
  for (std::size_t i = 0; i <= lengths.size(); ++i) {
    const double before = i > 0 ? lengths[i - 1] : 0.0;
    const double after = i < lengths.size() ? lengths[i] : 0.0;
    here_.push_back(after / (before + after));
    slope_.push_back(2.0 / (before + after));
  }
}

SpeedSpline::Values SpeedSpline::places() const {
  Values out{0.0};
  double start = 0.0;
  for (const double length : lengths_) {
    out.push_back(start + 0.5 * length);
    start += length;
  }
  out.push_back(start);
  return out;
}

SpeedSpline::Values SpeedSpline::values_at(const Values& c, const Values& places) const {
  Values out;
  std::size_t interval = 0;
  double start = 0.0;
  for (const double z : places) {
    while (interval + 1 < lengths_.size() && z > start + lengths_[interval])
      start += lengths_[interval++];
    out.push_back(at(c, interval, std::min(z - start, lengths_[interval]))[0]);
  }
  return out;
}

double SpeedSpline::least(const Values& c, std::size_t interval) const {
  const auto [x, slope, bend] = at(c, interval, 0.0);
  const bool dips = slope < 0.0 && -slope < bend * lengths_[interval];
  return dips ? x - 0.5 * slope * slope / bend : std::min(x, at_knot(c, interval + 1));
}

SpeedSpline::Dependence SpeedSpline::dependence(std::size_t i) const {
  const double over = 1.0 / lengths_[i];
  return {Local{here_[i], 1.0 - here_[i], 0.0}, Local{-slope_[i], slope_[i], 0.0},
          Local{slope_[i] * over, -(slope_[i] + slope_[i + 1]) * over, slope_[i + 1] * over}};
}

double SpeedSpline::duration(const Values& c, std::size_t interval) const {
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
