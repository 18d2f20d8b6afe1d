// Time-optimal progress over a grid, one interval after the other, without vectors: what the quick
// one is compared with. The largest x of each interval is found by tangents to the ends of the
// range of u, with all limits at once.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <vector>

#include "elbowroom/pace/progress_passes.hpp"

namespace er::test {

class PlainProgress {
 public:
  explicit PlainProgress(const GridLimits& limits) : limits_(limits) {}

  [[nodiscard]] std::vector<double> quickest() const {
    const std::size_t last = limits_.lengths.size();
    std::vector<double> x(last + 1, 0.0);
    for (std::size_t i = last; i-- > 0;) x[i] = largest(i, x[i + 1]);
    x[0] = 0.0;
    for (std::size_t i = 0; i < last; ++i) {
      Bound low;
      Bound high;
      range(i, x[i], low, high);
      const double twice = 2.0 * limits_.lengths[i];
      const double u = std::max(std::min(high.value, (x[i + 1] - x[i]) / twice), low.value);
      x[i + 1] = std::clamp(x[i] + twice * u, 0.0, x[i + 1]);
    }
    return x;
  }

 private:
  // On u as a function of x.
  struct Bound {
    double value;
    double slope;
  };

  // The largest x from which an u leads to no more than `next`. The range's ends are concave and
  // convex, so going to where their tangents cross never passes it.
  [[nodiscard]] double largest(std::size_t i, double next) const {
    const double over = 0.5 / limits_.lengths[i];
    double x = std::min(limits_.most[i], widest(i));
    for (int round = 0; round < 100; ++round) {
      Bound low;
      Bound high;
      range(i, x, low, high);
      if ((next - x) * over < high.value) high = {(next - x) * over, -over};
      const double gap = high.value - low.value;
      if (gap >= 0.0) return x;
      const double lower = x - gap / (high.slope - low.slope);
      if (!(lower > 0.0)) return 0.0;
      if (lower >= x * (1.0 - 1e-15)) return lower;
      x = lower;
    }
    return x;
  }

  // x by limits that do not depend on u, or not at the widest place of an ellipse.
  [[nodiscard]] double widest(std::size_t i) const {
    double out = std::numeric_limits<double>::infinity();
    for (const GridLimits::Linear& limit : limits_.linear)
      for (const std::size_t end : {i, i + 1}) {
        const auto [p, r, low, high] = row(limit, i, end);
        if (std::abs(p) <= 1e-12 * std::abs(r) && r != 0.0)
          out = std::min(out, r > 0.0 ? high / r : low / r);
      }
    for (const GridLimits::Cone& limit : limits_.cones)
      for (const std::size_t end : {i, i + 1}) {
        const auto [pp, pr, rr] = products(limit, i, end);
        const double across = pp < 1e-24 ? rr : rr - pr * pr / pp;
        if (across > 0.0) out = std::min(out, (1.0 - 1e-9) * limit.most / std::sqrt(across));
      }
    return out;
  }

  void range(std::size_t i, double x, Bound& low, Bound& high) const {
    const double over = 0.5 / limits_.lengths[i];
    low = {-x * over, -over};
    high = {std::numeric_limits<double>::infinity(), 0.0};
    const auto keep = [&](double from, double from_slope, double to, double to_slope) {
      if (from > low.value) low = {from, from_slope};
      if (to < high.value) high = {to, to_slope};
    };
    for (const GridLimits::Linear& limit : limits_.linear)
      for (const std::size_t end : {i, i + 1}) {
        const auto [p, r, most_low, most_high] = row(limit, i, end);
        if (std::abs(p) <= 1e-12 * std::abs(r)) continue;
        const double a = (most_low - r * x) / p;
        const double b = (most_high - r * x) / p;
        keep(std::min(a, b), -r / p, std::max(a, b), -r / p);
      }
    for (const GridLimits::Cone& limit : limits_.cones)
      for (const std::size_t end : {i, i + 1}) {
        const auto [pp, pr, rr] = products(limit, i, end);
        if (pp < 1e-24) continue;
        const double across = std::max(rr - pr * pr / pp, 0.0);
        const double half = std::sqrt(std::max(limit.most * limit.most - across * x * x, 0.0) / pp);
        const double bend = half > 0.0 ? -across * x / (pp * half) : 0.0;
        const double middle = -pr / pp * x;
        keep(middle - half, -pr / pp - bend, middle + half, -pr / pp + bend);
      }
  }

  // low <= p u + r x <= high with x where the interval begins.
  [[nodiscard]] std::array<double, 4> row(const GridLimits::Linear& limit, std::size_t i,
                                          std::size_t end) const {
    const double r = limit.by_square[end];
    const double p = limit.by_growth[end] + (end > i ? 2.0 * limits_.lengths[i] * r : 0.0);
    const double still = limit.still != nullptr ? limit.still[end] : 0.0;
    return {p, r, limit.low - still, limit.high - still};
  }

  // p.p, p.r and r.r
  [[nodiscard]] std::array<double, 3> products(const GridLimits::Cone& limit, std::size_t i,
                                               std::size_t end) const {
    std::array<double, 3> out{};
    for (std::size_t axis = 0; axis < 3; ++axis) {
      const double r = limit.by_square[axis][end];
      const double p = limit.by_growth[axis][end] + (end > i ? 2.0 * limits_.lengths[i] * r : 0.0);
      out[0] += p * p;
      out[1] += p * r;
      out[2] += r * r;
    }
    return out;
  }

  const GridLimits& limits_;
};

}  // namespace er::test
