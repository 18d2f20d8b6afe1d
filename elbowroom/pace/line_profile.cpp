#include "elbowroom/pace/line_profile.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/pace/jerk_limited.hpp"

namespace er {
namespace {

// Limits on progress s along the line, from the joint that allows least.
struct LineLimits {
  double velocity;
  double rise;  // the acceleration, and that which slows down
  double fall;
  double jerk;

  // What holds for laws that speed up as they slow down.
  [[nodiscard]] double acceleration() const { return std::min(rise, fall); }
};

LineLimits line_limits(const Posture& travel, const Limits& limits, double speed) {
  // Infinity divided by a travel stays infinity, and a joint that does not move sets no limit.
  constexpr double kNone = std::numeric_limits<double>::infinity();
  LineLimits out{kNone, kNone, kNone, kNone};
  for (Eigen::Index k = 0; k < travel.size(); ++k) {
    const double way = travel[k];
    if (way == 0.0) continue;
    // The limit of the way it goes, and of the other.
    const auto along = [&](const WayLimits& both) {
      return (way > 0.0 ? both.high : both.low) / way;
    };
    const auto against = [&](const WayLimits& both) {
      return -(way > 0.0 ? both.low : both.high) / way;
    };
    out.velocity = std::min(out.velocity, speed * along(limits.velocity_of(k)));
    out.rise = std::min(out.rise, along(limits.acceleration_of(k)));
    out.fall = std::min(out.fall, against(limits.acceleration_of(k)));
    out.jerk = std::min(out.jerk, limits.jerk[k] / std::abs(way));
  }
  return out;
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
  const double duration = std::max(1.5 / most.velocity, std::sqrt(6.0 / most.acceleration()));
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
      std::max({15.0 / 8.0 / most.velocity, std::sqrt(10.0 / std::sqrt(3.0) / most.acceleration()),
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
  // The top speed, or what leaves no time to cruise: it rises over v / rise and falls over v /
  // fall.
  const double most_without_cruise = std::sqrt(2.0 / (1.0 / most.rise + 1.0 / most.fall));
  const double cruise_at_most =
      1.0 / most.velocity - 0.5 * most.velocity * (1.0 / most.rise + 1.0 / most.fall);
  const bool cruises = cruise_at_most > 1e-9;  // otherwise top speed is never reached, or only just
  const double v = cruises ? most.velocity : most_without_cruise;
  const double up = v / most.rise;
  const double down = v / most.fall;
  std::vector<CurvePiece> pieces{parabola(from, travel, up, 0.0, 0.0, most.rise)};
  if (cruises) pieces.push_back(parabola(from, travel, cruise_at_most, 0.5 * v * up, v, 0.0));
  pieces.push_back(parabola(from, travel, down, 1.0 - 0.5 * v * down, v, -most.fall));
  return pieces;
}

std::vector<CurvePiece> jerk_limited_line(const Posture& from, const Posture& to,
                                          const Limits& limits, double speed) {
  const Posture travel = to - from;
  const LineLimits most = line_limits(travel, limits, speed);
  const JerkLimited progress({}, {1.0, 0.0, 0.0},
                             {-most.velocity, most.velocity, -most.fall, most.rise, most.jerk});
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
