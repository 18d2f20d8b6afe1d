#include "elbowroom/pace/line_profile.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/pace/jerk_limited.hpp"

namespace er {
namespace {

// Limits on progress s along the line, from the joint that allows least.
struct LineLimits {
  double velocity;
  double acceleration;
  double jerk;
};

LineLimits line_limits(const Posture& travel, const Limits& limits, double speed) {
  // Infinity divided by a travel stays infinity, and a joint that does not move sets no limit.
  const auto least = [&](const Posture& limit) {
    double out = std::numeric_limits<double>::infinity();
    for (Eigen::Index k = 0; k < travel.size(); ++k)
      if (travel[k] != 0.0) out = std::min(out, limit[k] / std::abs(travel[k]));
    return out;
  };
  return {speed * least(limits.velocity), least(limits.acceleration), least(limits.jerk)};
}

// A piece in which progress is s0 + v0 t + a t^2 / 2.
CurvePiece parabola(const Posture& from, const Posture& travel, double duration, double s0,
                    double v0, double a) {
  CurvePiece piece{duration, {}};
  for (Eigen::Index k = 0; k < from.size(); ++k)
    piece.joints.push_back(
        {from[k] + s0 * travel[k], v0 * travel[k], 0.5 * a * travel[k], 0.0, 0.0, 0.0});
  return piece;
}

}  // namespace

std::vector<CurvePiece> cubic_line(const Posture& from, const Posture& to, const Limits& limits,
                                   double speed) {
  const Posture travel = to - from;
  const LineLimits most = line_limits(travel, limits, speed);
  const double duration = std::max(1.5 / most.velocity, std::sqrt(6.0 / most.acceleration));
  const double t2 = duration * duration;
  CurvePiece piece{duration, {}};
  for (Eigen::Index k = 0; k < from.size(); ++k)
    piece.joints.push_back(
        {from[k], 0.0, 3.0 * travel[k] / t2, -2.0 * travel[k] / (t2 * duration), 0.0, 0.0});
  return {piece};
}

std::vector<CurvePiece> quintic_line(const Posture& from, const Posture& to, const Limits& limits,
                                     double speed) {
  const Posture travel = to - from;
  const LineLimits most = line_limits(travel, limits, speed);
  const double duration =
      std::max({15.0 / 8.0 / most.velocity, std::sqrt(10.0 / std::sqrt(3.0) / most.acceleration),
                std::cbrt(60.0 / most.jerk)});
  const double t3 = duration * duration * duration;
  CurvePiece piece{duration, {}};
  for (Eigen::Index k = 0; k < from.size(); ++k)
    piece.joints.push_back({from[k], 0.0, 0.0, 10.0 * travel[k] / t3,
                            -15.0 * travel[k] / (t3 * duration),
                            6.0 * travel[k] / (t3 * duration * duration)});
  return {piece};
}

std::vector<CurvePiece> trapezoid_line(const Posture& from, const Posture& to, const Limits& limits,
                                       double speed) {
  const Posture travel = to - from;
  const LineLimits most = line_limits(travel, limits, speed);
  const double a = most.acceleration;
  const double rise = most.velocity / a;
  const double cruise = 1.0 / most.velocity - rise;
  if (!(cruise > 1e-9)) {  // top speed is never reached, or only just
    const double half = std::sqrt(1.0 / a);
    return {parabola(from, travel, half, 0.0, 0.0, a),
            parabola(from, travel, half, 0.5, a * half, -a)};
  }
  const double risen = 0.5 * most.velocity * rise;
  return {parabola(from, travel, rise, 0.0, 0.0, a),
          parabola(from, travel, cruise, risen, most.velocity, 0.0),
          parabola(from, travel, rise, 1.0 - risen, most.velocity, -a)};
}

std::vector<CurvePiece> jerk_limited_line(const Posture& from, const Posture& to,
                                          const Limits& limits, double speed) {
  const Posture travel = to - from;
  const LineLimits most = line_limits(travel, limits, speed);
  const JerkLimited progress({}, {1.0, 0.0, 0.0},
                             symmetric_limits(most.velocity, most.acceleration, most.jerk));
  const AxisProfile law = progress.profile(progress.shortest());
  std::vector<CurvePiece> pieces;
  for (int i = 0; i < law.count(); ++i) {
    const auto [duration, jerk, s] = law.piece(i);
    CurvePiece piece{duration, {}};
    for (Eigen::Index k = 0; k < from.size(); ++k)
      piece.joints.push_back({from[k] + s.position * travel[k], s.velocity * travel[k],
                              0.5 * s.acceleration * travel[k], jerk / 6.0 * travel[k], 0.0, 0.0});
    pieces.push_back(std::move(piece));
  }
  return pieces;
}

std::vector<CurvePiece> profile_line(Profile profile, const Posture& from, const Posture& to,
                                     const Limits& limits, double speed) {
  if (profile == Profile::cubic) return cubic_line(from, to, limits, speed);
  if (profile == Profile::quintic) return quintic_line(from, to, limits, speed);
  if (profile == Profile::trapezoid) return trapezoid_line(from, to, limits, speed);
  return jerk_limited_line(from, to, limits, speed);
}

}  // namespace er
