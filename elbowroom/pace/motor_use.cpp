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

constexpr double kJustBeside = 1e-7;  // of a piece

// Where in each piece torques are looked at, in shares of it: its ends from within, since a joint
// that has come to rest has no friction any more.
std::vector<double> looked_at(const Motion& motion, TorqueMoments moments) {
  const bool short_ones = motion.pieces().size() > 100;
  if (short_ones && moments == TorqueMoments::between_ends) return {0.5};
  const int intervals = short_ones ? 3 : 8;
  std::vector<double> shares{kJustBeside};
  for (int i = 1; i < intervals; ++i) shares.push_back(static_cast<double>(i) / intervals);
  shares.push_back(1.0 - kJustBeside);
  return shares;
}

// Times within a piece on both sides of where joints with friction turn round: efforts jump there.
void add_turns(const CurvePiece& piece, const Posture& friction, std::vector<double>& times) {
  const double beside = kJustBeside * piece.duration;
  for (std::size_t k = 0; k < piece.joints.size(); ++k) {
    if (friction[static_cast<Eigen::Index>(k)] == 0.0) continue;
    const Roots turns = zeros_of(derivative_of(piece.joints[k]), piece.duration);
    for (std::size_t i = 0; i < turns.count; ++i)
      for (const double time : {turns.at[i] - beside, turns.at[i] + beside})
        if (time > 0.0 && time < piece.duration) times.push_back(time);
  }
}

// What torques are asked of: each piece's own polynomials, since across its ends accelerations may
// jump.
struct Samples {
  // Of the pieces from one to before another; times since the first of them begins.
  Samples(const Motion& motion, const std::vector<double>& shares, const Posture& friction,
          std::size_t from, std::size_t to) {
    std::vector<double> within;  // the piece, one time after the other
    std::vector<std::size_t> first{0};
    for (std::size_t i = from; i < to; ++i) {
      const CurvePiece& piece = motion.pieces()[i];
      for (const double share : shares) within.push_back(share * piece.duration);
      add_turns(piece, friction, within);
      first.push_back(within.size());
    }
    for (PostureRows* values : {&position, &velocity, &acceleration})
      values->resize(static_cast<Eigen::Index>(within.size()), motion.dof());
    times.reserve(within.size());
    double start = 0.0;
    for (std::size_t i = from; i < to; ++i) {
      const CurvePiece& piece = motion.pieces()[i];
      for (std::size_t at = first[i - from]; at < first[i - from + 1]; ++at) {
        add(piece, within[at]);
        times.push_back(start + within[at]);
      }
      start += piece.duration;
    }
  }

  PostureRows position;
  PostureRows velocity;
  PostureRows acceleration;
  std::vector<double> times;

 private:
  void add(const CurvePiece& piece, double time) {
    const auto row = static_cast<Eigen::Index>(times.size());
    for (std::size_t k = 0; k < piece.joints.size(); ++k) {
      const ValueAndDerivatives at = all_at(piece.joints[k], time);
      position(row, static_cast<Eigen::Index>(k)) = at.value;
      velocity(row, static_cast<Eigen::Index>(k)) = at.first;
      acceleration(row, static_cast<Eigen::Index>(k)) = at.second;
    }
  }
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

double share_of_speed(const PathEfforts& efforts, const Posture& most) {
  const bool damped = efforts.by_rate.size() > 0;
  double y = 1.0;
  for (Eigen::Index k = 0; k < efforts.still.cols(); ++k) {
    // Most joints are nowhere near.
    double sum = (efforts.still.col(k).cwiseAbs() + efforts.by_square.col(k).cwiseAbs()).maxCoeff();
    if (damped) sum += efforts.by_rate.col(k).cwiseAbs().maxCoeff();
    if (sum <= most[k]) continue;
    for (Eigen::Index i = 0; i < efforts.still.rows(); ++i)
      y = std::min(y, share_of_speed(efforts.still(i, k), damped ? efforts.by_rate(i, k) : 0.0,
                                     efforts.by_square(i, k), most[k]));
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
  const ArmDynamics dynamics(arm, options);
  const Samples samples(motion, looked_at(motion, TorqueMoments::all), dynamics.friction(), 0,
                        motion.pieces().size());
  PostureRows effort(samples.position);
  dynamics.inverse(samples.position, samples.velocity, samples.acceleration, effort);
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
                                   const ArmDynamics& dynamics, TorqueMoments moments) {
  const std::vector<double> shares = looked_at(motion, moments);
  const std::size_t pieces = motion.pieces().size();
  // A motion is a path whose parameter is time: gone along at an even pace y it takes 1 / y times
  // as long. Few pieces at a time, for which there is room in the cache.
  constexpr std::size_t kFew = 128;
  double y = 1.0;
  std::optional<Reason> too_heavy;
  double heaviest = 0.0;
  for (std::size_t from = 0; from < pieces; from += kFew) {
    const Samples samples(motion, shares, dynamics.friction(), from, std::min(from + kFew, pieces));
    const PathEfforts efforts = path_efforts(
        dynamics, {samples.position, samples.velocity, samples.acceleration, samples.velocity},
        false);
    if (auto reason = too_heavy_to_hold(efforts.still, most, arm);
        reason && reason->figures.front().value > heaviest) {
      heaviest = reason->figures.front().value;
      too_heavy = std::move(reason);
    }
    y = std::min(y, share_of_speed(efforts, most));
  }
  if (too_heavy) return *too_heavy;
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
