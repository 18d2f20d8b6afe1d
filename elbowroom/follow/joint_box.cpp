#include "elbowroom/follow/joint_box.hpp"

#include <algorithm>
#include <cmath>

namespace er {
namespace {

// The largest velocity towards an end of the range that is `room` away.
double stoppable(double room, double acceleration, double period) {
  room = std::max(room, 0.0);
  if (!std::isfinite(acceleration) || !std::isfinite(room)) return room / period;
  const double change = acceleration * period;
  // The root less what it starts from, without losing digits where the room is small.
  return 2.0 * acceleration * room /
         (std::sqrt(change * change + 2.0 * acceleration * room) + change);
}

}  // namespace

Posture velocity_units(const Limits& limits) {
  Posture units = limits.velocity;
  for (double& unit : units)
    if (!std::isfinite(unit) || !(unit > 0.0)) unit = 1.0;
  return units;
}

void lasting_box(const Limits& limits, const PostureRef& posture, double period, JointBox& out) {
  const Eigen::Index n = posture.size();
  out.lower.resize(n);
  out.upper.resize(n);
  for (Eigen::Index k = 0; k < n; ++k) {
    const auto i = static_cast<std::size_t>(k);
    const double v = limits.velocity[k];
    const double a = limits.acceleration[k];
    out.upper[k] = v;
    out.lower[k] = -v;
    out.upper_by[i] = out.lower_by[i] = LimitKind::velocity;
    const double above = limits.upper[k] - posture[k];
    const double below = posture[k] - limits.lower[k];
    // A step at full speed, and the way to rest: with that much room no root is needed.
    const double enough = v * period + 0.5 * v * (v / a);
    if (above >= enough && below >= enough) continue;
    const double up = stoppable(above, a, period);
    const double down = -stoppable(below, a, period);
    if (up < out.upper[k]) {
      out.upper[k] = up;
      out.upper_by[i] = LimitKind::range;
    }
    if (down > out.lower[k]) {
      out.lower[k] = down;
      out.lower_by[i] = LimitKind::range;
    }
  }
}

void joint_box(const Limits& limits, const PostureRef& posture, const PostureRef& before,
               double period, JointBox& out) {
  lasting_box(limits, posture, period, out);
  for (Eigen::Index k = 0; k < posture.size(); ++k) {
    const auto i = static_cast<std::size_t>(k);
    const double change = limits.acceleration[k] * period;
    if (before[k] + change < out.upper[k]) {
      out.upper[k] = before[k] + change;
      out.upper_by[i] = LimitKind::acceleration;
    }
    if (before[k] - change > out.lower[k]) {
      out.lower[k] = before[k] - change;
      out.lower_by[i] = LimitKind::acceleration;
    }
    // Rounding must not turn the box inside out.
    if (out.lower[k] > out.upper[k]) out.lower[k] = out.upper[k];
  }
}

}  // namespace er
