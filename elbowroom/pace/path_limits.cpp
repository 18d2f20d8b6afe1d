#include "elbowroom/pace/path_limits.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/pace/motor_use.hpp"

namespace er {
namespace {

constexpr double kEndless = std::numeric_limits<double>::infinity();

double tool_stretch(const Motion& motion, const Arm& arm, const PathLimits& limits) {
  if (limits.link < 0) return 0.0;
  // Along one piece's own polynomials: across its ends accelerations may jump.
  const auto velocity = [&](const CurvePiece& piece, double t) {
    Posture q(motion.dof());
    Posture v(motion.dof());
    for (Eigen::Index k = 0; k < q.size(); ++k) {
      const ValueAndDerivatives at = all_at(piece.joints[static_cast<std::size_t>(k)], t);
      q[k] = at.value;
      v[k] = at.first;
    }
    return point_velocity(arm, limits.link, limits.tip, q, v);
  };
  double speed = 0.0;
  double acceleration = 0.0;
  for (const CurvePiece& piece : motion.pieces()) {
    constexpr int kSamples = 8;
    const double step = 1e-3 * piece.duration;
    for (int i = 0; i <= kSamples; ++i) {
      const double t = piece.duration * i / kSamples;
      speed = std::max(speed, velocity(piece, t).norm() / limits.tool_speed);
      if (!std::isfinite(limits.tool_acceleration)) continue;
      const Vector3 change = velocity(piece, t + step) - velocity(piece, t - step);
      acceleration =
          std::max(acceleration, change.norm() / (2.0 * step) / limits.tool_acceleration);
    }
  }
  return std::max(speed, std::sqrt(acceleration));
}

void check_above_zero(const Posture& values, int dof, std::string_view what) {
  if (values.size() != dof)
    throw InputError(fmt::format("there are {} {} for {} joints", values.size(), what, dof));
  for (Eigen::Index k = 0; k < values.size(); ++k)
    if (!(values[k] > 0.0))
      throw InputError(
          fmt::format("the {} of joint {} are above zero, found {:g}", what, k + 1, values[k]));
}

}  // namespace

void check_path(const JointCurve& path, const PathLimits& limits) {
  if (path.pieces().empty()) throw InputError("a path of no length needs no time");
  check_above_zero(limits.velocity, path.dof(), "limits");
  check_above_zero(limits.acceleration, path.dof(), "limits");
  if (limits.jerk.size() > 0) check_above_zero(limits.jerk, path.dof(), "limits");
  if (limits.torques) check_above_zero(limits.torques->most, path.dof(), "torque limits");
  if (!(limits.tool_speed > 0.0) || !(limits.tool_acceleration > 0.0))
    throw InputError("the tool's limits of speed and acceleration are above zero");
  for (const StretchCap& cap : limits.caps)
    if (!(cap.share > 0.0))
      throw InputError(fmt::format("a stretch cannot be gone along at {:g} %", 100.0 * cap.share));
}

double cap_at(const PathLimits& limits, double parameter) {
  double share = 1.0;
  for (const StretchCap& cap : limits.caps)
    if (parameter >= cap.from - 1e-12 && parameter <= cap.to + 1e-12)
      share = std::min(share, cap.share);
  return share;
}

double stretch_to_keep(const Motion& motion, const Arm& arm, const PathLimits& limits) {
  Limits own;
  own.velocity = limits.velocity;
  own.acceleration = limits.acceleration;
  own.jerk = limits.jerk.size() > 0 ? limits.jerk : Posture::Constant(motion.dof(), kEndless);
  const MotionPeaks peaks = peaks_of(motion, own);
  return std::max({peaks.velocity.share, std::sqrt(peaks.acceleration.share),
                   std::cbrt(peaks.jerk.share), tool_stretch(motion, arm, limits)});
}

KeptMotion kept_within(Motion motion, const Arm& arm, const PathLimits& limits) {
  double factor = std::max(1.0, stretch_to_keep(motion, arm, limits));
  if (limits.torques)
    factor = std::max(
        factor, stretch_for_torque(motion, arm, limits.torques->most, limits.torques->dynamics));
  if (factor > 1.0 && std::isfinite(factor)) motion = motion.stretched(factor);
  return {std::move(motion), factor};
}

}  // namespace er
