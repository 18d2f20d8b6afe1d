#include "elbowroom/base/spline.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

enum class Ends { at_rest, without_acceleration };

// Velocities at the knots from continuous acceleration, with gap h[i] after knot i: h[i] v[i-1] +
// 2 (h[i-1] + h[i]) v[i] + h[i-1] v[i+1] = 3 (h[i] s[i-1] + h[i-1] s[i]), s[i] the slope over gap
// i; a tridiagonal system, solved by elimination.
std::vector<Posture> knot_velocities(const std::vector<Posture>& q, const std::vector<double>& h,
                                     Ends ends) {
  const std::size_t n = q.size();
  const auto slope = [&](std::size_t i) { return Posture((q[i + 1] - q[i]) / h[i]); };
  std::vector<Posture> v(n, Posture::Zero(q.front().size()));
  std::vector<double> diagonal(n, 1.0);
  std::vector<double> after(n, 0.0);
  if (ends == Ends::without_acceleration) {
    after[0] = 0.5;
    v[0] = 1.5 * slope(0);
  }
  for (std::size_t i = 1; i + 1 < n; ++i) {
    diagonal[i] = 2.0 * (h[i - 1] + h[i]) - h[i] * after[i - 1];
    v[i] = 3.0 * (h[i] * slope(i - 1) + h[i - 1] * slope(i)) - h[i] * v[i - 1];
    v[i] /= diagonal[i];
    after[i] = h[i - 1] / diagonal[i];
  }
  if (ends == Ends::without_acceleration)
    v[n - 1] = (3.0 * slope(n - 2) - v[n - 2]) / (2.0 - after[n - 2]);
  for (std::size_t i = n - 1; i-- > 0;) v[i] -= after[i] * v[i + 1];
  return v;
}

JointCurve through(const std::vector<Posture>& knots, const std::vector<double>& gaps, Ends ends) {
  const std::vector<Posture> v = knot_velocities(knots, gaps, ends);
  std::vector<CurvePiece> pieces;
  for (std::size_t i = 0; i + 1 < knots.size(); ++i) {
    const double step = gaps[i];
    CurvePiece piece{step, {}};
    for (Eigen::Index k = 0; k < knots[i].size(); ++k) {
      const double rise = (knots[i + 1][k] - knots[i][k]) / step;
      piece.joints.push_back({knots[i][k], v[i][k], (3 * rise - 2 * v[i][k] - v[i + 1][k]) / step,
                              (v[i][k] + v[i + 1][k] - 2 * rise) / (step * step), 0.0, 0.0});
    }
    pieces.push_back(std::move(piece));
  }
  return JointCurve(std::move(pieces));
}

}  // namespace

JointCurve spline_through(const std::vector<Posture>& knots, double step) {
  if (knots.size() < 2) throw InputError("a spline needs at least two knots");
  return through(knots, std::vector<double>(knots.size() - 1, step), Ends::at_rest);
}

JointCurve spline_through(const std::vector<Posture>& knots, const std::vector<double>& times) {
  if (knots.size() < 2 || times.size() != knots.size())
    throw InputError("a spline needs at least two knots, and a time for each");
  std::vector<double> gaps;
  for (std::size_t i = 0; i + 1 < times.size(); ++i) gaps.push_back(times[i + 1] - times[i]);
  return through(knots, gaps, Ends::without_acceleration);
}

Posture chord_deviation(const CurvePiece& piece) {
  Posture out(static_cast<Eigen::Index>(piece.joints.size()));
  for (Eigen::Index k = 0; k < out.size(); ++k) {
    const Quintic& c = piece.joints[static_cast<std::size_t>(k)];
    const Extremes a = extremes_of(derivative_of(derivative_of(c)), piece.duration);
    out[k] = std::max(std::abs(a.low), std::abs(a.high)) * piece.duration * piece.duration / 8.0;
  }
  return out;
}

}  // namespace er
