#include "elbowroom/base/spline.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

// Velocities at the knots from continuous acceleration: v[i-1] + 4 v[i] + v[i+1] =
// 3 (q[i+1] - q[i-1]) / h, with v = 0 at both ends; a tridiagonal system, solved by elimination.
std::vector<Posture> knot_velocities(const std::vector<Posture>& q, double h) {
  const std::size_t n = q.size();
  std::vector<Posture> v(n, Posture::Zero(q.front().size()));
  if (n < 3) return v;
  std::vector<double> diagonal(n, 4.0);
  for (std::size_t i = 1; i + 1 < n; ++i) v[i] = (3.0 / h) * (q[i + 1] - q[i - 1]);
  for (std::size_t i = 2; i + 1 < n; ++i) {
    const double factor = 1.0 / diagonal[i - 1];
    diagonal[i] -= factor;
    v[i] -= factor * v[i - 1];
  }
  for (std::size_t i = n - 2; i >= 1; --i) v[i] = (v[i] - v[i + 1]) / diagonal[i];
  return v;
}

}  // namespace

JointCurve spline_through(const std::vector<Posture>& knots, double step) {
  if (knots.size() < 2) throw InputError("a spline needs at least two knots");
  const std::vector<Posture> v = knot_velocities(knots, step);
  std::vector<CurvePiece> pieces;
  for (std::size_t i = 0; i + 1 < knots.size(); ++i) {
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
