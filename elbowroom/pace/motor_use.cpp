#include "elbowroom/pace/motor_use.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "elbowroom/base/units.hpp"
#include "elbowroom/dynamics/gravity.hpp"
#include "elbowroom/pace/path_efforts.hpp"

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
    JointState state;
    for (const CurvePiece& piece : motion.pieces()) {
      for (int i = 0; i <= each; ++i, ++row) {
        // Ends from within: a joint that has come to rest has no friction any more.
        const double share = std::clamp(static_cast<double>(i) / each, 1e-7, 1.0 - 1e-7);
        state_in(piece, piece.duration * share, state);
        times.push_back(start + piece.duration * share);
        position.row(row) = state.position.transpose();
        velocity.row(row) = state.velocity.transpose();
        acceleration.row(row) = state.acceleration.transpose();
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
  if (std::abs(still) + std::abs(rate) + std::abs(growth) <= most) return 1.0;
  double y = 1.0;
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

bool has_torque_limit(const Arm& arm) {
  const Posture& limits = arm.limits().torque;
  return std::any_of(limits.begin(), limits.end(), [](double one) { return std::isfinite(one); });
}

}  // namespace

bool states_torques(const Arm& arm) { return has_torque_limit(arm) && states_masses(arm); }

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

Verdict<double> stretch_for_torque(const Motion& motion, const Arm& arm, const Posture& most,
                                   const DynamicsOptions& options) {
  const Samples samples(motion);
  // A motion is a path whose parameter is time: gone along at an even pace y it takes 1 / y times
  // as long.
  const EvenEfforts efforts = even_efforts(arm, options, samples.position, samples.velocity,
                                           samples.acceleration, samples.velocity);
  if (auto reason = too_heavy_to_hold(efforts.still, most, arm)) return *reason;
  double y = 1.0;
  for (Eigen::Index k = 0; k < efforts.still.cols(); ++k)
    for (Eigen::Index i = 0; i < efforts.still.rows(); ++i)
      y = std::min(y, share_of_speed(efforts.still(i, k), efforts.by_rate(i, k),
                                     efforts.by_square(i, k), most[k]));
  return 1.0 / y;
}

std::string torque_text(const PeakUse& use, const Arm& arm) {
  if (use.joint < 0) {
    if (!has_torque_limit(arm) || states_masses(arm)) return {};
    const auto link = static_cast<std::size_t>(link_without_mass(arm));
    return fmt::format("torque limits are not looked at: link {} states no mass",
                       arm.links()[link].name);
  }
  return fmt::format("{} {:.1f} % of the limit of {}, at {}",
                     use.share > 1.0 ? "torque limits are not kept:" : "torque at most",
                     100.0 * use.share, arm.moving_joint(use.joint).name, text_time(use.time));
}

}  // namespace er
