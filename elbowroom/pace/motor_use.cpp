#include "elbowroom/pace/motor_use.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "elbowroom/base/units.hpp"
#include "elbowroom/dynamics/gravity.hpp"

namespace er {
namespace {

// Intervals in each piece. Where there are many pieces they are short, and limits were kept at
// their ends.
int samples_in_piece(const Motion& motion) { return motion.pieces().size() > 100 ? 3 : 8; }

// What torques are asked of: each piece's own polynomials, since across its ends accelerations may
// jump.
struct Samples {
  explicit Samples(const Motion& motion)
      : each(samples_in_piece(motion)),
        position(static_cast<Eigen::Index>(motion.pieces().size()) * (each + 1), motion.dof()),
        velocity(position),
        acceleration(position) {
    Eigen::Index row = 0;
    double start = 0.0;
    for (const CurvePiece& piece : motion.pieces()) {
      for (int i = 0; i <= each; ++i, ++row) {
        // Ends from within: a joint that has come to rest has no friction any more.
        const double share = std::clamp(static_cast<double>(i) / each, 1e-7, 1.0 - 1e-7);
        const double t = piece.duration * share;
        times.push_back(start + t);
        for (Eigen::Index k = 0; k < position.cols(); ++k) {
          const ValueAndDerivatives at = all_at(piece.joints[static_cast<std::size_t>(k)], t);
          position(row, k) = at.value;
          velocity(row, k) = at.first;
          acceleration(row, k) = at.second;
        }
      }
      start += piece.duration;
    }
  }

  int each;
  PostureRows position;
  PostureRows velocity;
  PostureRows acceleration;
  std::vector<double> times;
};

// The largest y up to 1 up to which still + rate y + growth y^2 stays within `most` either way: the
// effort of a motion that takes 1 / y times as long.
double share_of_speed(double still, double rate, double growth, double most) {
  double y = 1.0;
  if (std::abs(still) >= most) return 0.0;
  for (const double bound : {most, -most}) {
    const double left = still - bound;  // growth y^2 + rate y + left = 0
    const double inside = rate * rate - 4.0 * growth * left;
    if (inside < 0.0) continue;
    const double q = -0.5 * (rate + std::copysign(std::sqrt(inside), rate));
    for (const double root : {growth != 0.0 ? q / growth : 2.0, q != 0.0 ? left / q : 2.0})
      if (root > 0.0) y = std::min(y, root);
  }
  return y;
}

}  // namespace

bool states_torques(const Arm& arm) {
  bool stated = false;
  for (const double limit : arm.limits().torque) stated = stated || std::isfinite(limit);
  return stated && states_masses(arm);
}

PeakUse torque_use(const Motion& motion, const Arm& arm, const DynamicsOptions& options) {
  PeakUse peak;
  if (!states_torques(arm)) return peak;
  const Samples samples(motion);
  PostureRows effort(samples.position);
  ArmDynamics(arm, options)
      .inverse(samples.position, samples.velocity, samples.acceleration, effort);
  const Posture& limits = arm.limits().torque;
  for (int k = 0; k < arm.dof(); ++k) {
    if (!std::isfinite(limits[k])) continue;
    Eigen::Index at = 0;
    const double share = effort.col(k).cwiseAbs().maxCoeff(&at) / limits[k];
    if (share > peak.share) peak = {share, k, samples.times[static_cast<std::size_t>(at)]};
  }
  return peak;
}

double stretch_for_torque(const Motion& motion, const Arm& arm, const Posture& most,
                          const DynamicsOptions& options) {
  const Samples samples(motion);
  PostureRows effort(samples.position);
  ArmDynamics(arm, options)
      .inverse(samples.position, samples.velocity, samples.acceleration, effort);
  bool kept = true;
  for (Eigen::Index k = 0; k < effort.cols(); ++k)
    kept = kept && effort.col(k).cwiseAbs().maxCoeff() <= most[k];
  if (kept) return 1.0;
  // Only what comes of accelerations and velocities becomes less with time.
  DynamicsOptions masses = options;
  masses.friction = false;
  const ArmDynamics dynamics(arm, masses);
  const PostureRows none = PostureRows::Zero(effort.rows(), effort.cols());
  PostureRows still(effort);
  dynamics.inverse(samples.position, none, none, still);
  dynamics.inverse(samples.position, samples.velocity, samples.acceleration, effort);
  double y = 1.0;
  for (Eigen::Index k = 0; k < effort.cols(); ++k) {
    const double damping = options.friction ? dynamics.damping()[k] : 0.0;
    const double friction = options.friction ? dynamics.friction()[k] : 0.0;
    for (Eigen::Index i = 0; i < effort.rows(); ++i) {
      const double v = samples.velocity(i, k);
      const double held = still(i, k) + (v != 0.0 ? std::copysign(friction, v) : 0.0);
      y = std::min(y, share_of_speed(held, damping * v, effort(i, k) - still(i, k), most[k]));
    }
  }
  return 1.0 / y;
}

std::string torque_text(const PeakUse& use, const Arm& arm) {
  if (use.joint < 0) return {};
  return fmt::format("{} {:.1f} % of the limit of {}, at {}",
                     use.share > 1.0 ? "torque limits are not kept:" : "torque at most",
                     100.0 * use.share, arm.moving_joint(use.joint).name, text_time(use.time));
}

}  // namespace er
