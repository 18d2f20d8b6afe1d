#include "elbowroom/pace/path_limits.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/pace/motor_use.hpp"
#include "elbowroom/pace/path_tool.hpp"

namespace er {
namespace {

constexpr double kEndless = std::numeric_limits<double>::infinity();

double joint_stretch(const Motion& motion, const PathLimits& limits) {
  Limits own;
  own.velocity = limits.velocity;
  own.acceleration = limits.acceleration;
  own.ways = limits.ways;
  own.jerk = limits.jerk.size() > 0 ? limits.jerk : Posture::Constant(motion.dof(), kEndless);
  const MotionPeaks peaks = peaks_of(motion, own);
  return std::max(
      {peaks.velocity.share, std::sqrt(peaks.acceleration.share), std::cbrt(peaks.jerk.share)});
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

LimitedFrames::LimitedFrames(const Arm& arm, const std::vector<FrameSpeed>& rules) : arm_(arm) {
  for (const FrameSpeed& rule : rules) frames_.push_back({point_of(arm, rule), rule.most});
}

double LimitedFrames::use(const PostureRef& position, const PostureRef& slope) const {
  double most = 0.0;
  Jacobian jacobian;
  for (const One& one : frames_) {
    frame_jacobian(arm_, one.point.link, Pose::at(one.point.at), position, jacobian);
    most = std::max(most, (jacobian.topRows<3>() * slope).norm() / one.most);
  }
  return most;
}

double tool_stretch(const Motion& motion, const Arm& arm, const PathLimits& limits) {
  if (limits.link < 0) return 0.0;
  double speed = 0.0;
  double acceleration = 0.0;
  JointState state;
  for (const CurvePiece& piece : motion.pieces()) {
    constexpr int kSamples = 8;
    for (int i = 0; i <= kSamples; ++i) {
      // By the piece's own polynomials: across its ends accelerations may jump.
      state_in(piece, piece.duration * i / kSamples, state);
      const PathTool tool = path_tool(arm, limits.link, limits.tip, state.position, state.velocity,
                                      state.acceleration);
      speed = std::max(speed, tool.slope.norm() / limits.tool_speed);
      acceleration = std::max(acceleration, tool.curvature.norm() / limits.tool_acceleration);
    }
  }
  return std::max(speed, std::sqrt(acceleration));
}

double stretch_to_keep(const Motion& motion, const Arm& arm, const PathLimits& limits) {
  return std::max(joint_stretch(motion, limits), tool_stretch(motion, arm, limits));
}

Verdict<KeptMotion> kept_within(Motion motion, const Arm& arm, const PathLimits& limits) {
  double factor = std::max(1.0, stretch_to_keep(motion, arm, limits));
  if (limits.torques) {
    const auto for_torque =
        stretch_for_torque(motion, arm, limits.torques->most,
                           ArmDynamics(arm, limits.torques->dynamics), TorqueMoments::between_ends);
    if (!for_torque) return for_torque.reason();
    factor = std::max(factor, *for_torque);
  }
  if (factor > 1.0) motion = motion.stretched(factor);
  return KeptMotion{std::move(motion), factor};
}

}  // namespace er
