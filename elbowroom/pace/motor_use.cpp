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

// The largest share of a limit.
class PeakJudge : public EffortJudge {
 public:
  PeakJudge(const Motion& motion, const Posture& limits) : motion_(motion), limits_(limits) {}

  [[nodiscard]] double speed() const override { return 1.0; }
  [[nodiscard]] double allowed(Eigen::Index k) const override { return peak_.share * limits_[k]; }
  void take(const PathEfforts& efforts, const Moments& moments) override {
    for (Eigen::Index k = 0; k < efforts.still.cols(); ++k) {
      if (!std::isfinite(limits_[k])) continue;
      for (Eigen::Index row = 0; row < efforts.still.rows(); ++row)
        if (const double share = std::abs(effort_of(efforts, row, k, 1.0)) / limits_[k];
            share > peak_.share) {
          peak_ = {share, static_cast<int>(k), 0.0};
          at_ = moments[static_cast<std::size_t>(row)];
        }
    }
  }
  [[nodiscard]] PeakUse peak() const {
    PeakUse out = peak_;
    for (std::size_t i = 0; i < at_.piece; ++i) out.time += motion_.pieces()[i].duration;
    out.time += at_.time;
    return out;
  }

 private:
  const Motion& motion_;
  const Posture& limits_;
  PeakUse peak_;
  Moment at_;
};

// How fast a motion may be gone along.
class SpeedJudge : public EffortJudge {
 public:
  SpeedJudge(const Arm& arm, const Posture& most) : arm_(arm), most_(most) {}

  [[nodiscard]] double speed() const override { return y_; }
  [[nodiscard]] double allowed(Eigen::Index k) const override { return most_[k]; }
  void take(const PathEfforts& efforts, const Moments&) override {
    if (auto reason = too_heavy_to_hold(efforts.still, most_, arm_);
        reason && reason->figures.front().value > heaviest_) {
      heaviest_ = reason->figures.front().value;
      too_heavy_ = std::move(reason);
    }
    y_ = std::min(y_, share_of_speed(efforts, most_));
  }
  [[nodiscard]] const std::optional<Reason>& too_heavy() const { return too_heavy_; }

 private:
  const Arm& arm_;
  const Posture& most_;
  double y_ = 1.0;
  double heaviest_ = 0.0;
  std::optional<Reason> too_heavy_;
};

}  // namespace

bool states_torques(const Arm& arm) { return has_torque_limit(arm) && states_masses(arm); }

PeakUse torque_use(const Motion& motion, const Arm& arm, const DynamicsOptions& options) {
  if (!states_torques(arm)) return {};
  const ArmDynamics dynamics(arm, options);
  PeakJudge judge(motion, arm.limits().torque);
  look_at_efforts(motion, dynamics, TorqueMoments::all, judge);
  return judge.peak();
}

Verdict<double> stretch_for_torque(const Motion& motion, const Arm& arm, const Posture& most,
                                   const ArmDynamics& dynamics, TorqueMoments moments) {
  SpeedJudge judge(arm, most);
  look_at_efforts(motion, dynamics, moments, judge);
  if (judge.too_heavy()) return *judge.too_heavy();
  return 1.0 / judge.speed();
}

std::string torque_text(const PeakUse& use, const Arm& arm) {
  if (use.joint < 0) {
    if (!has_torque_limit(arm) || states_masses(arm)) return {};
    const auto link = static_cast<std::size_t>(link_without_mass(arm));
    return fmt::format("torque limits are not looked at: link {} states no mass",
                       arm.links()[link].name);
  }
  return fmt::format(
      "{} {:.1f} % of the limit of {}, at {}",
      use.share > 1.0 + kTorqueSlack ? "torque limits are not kept:" : "torque at most",
      100.0 * use.share, arm.moving_joint(use.joint).name, text_time(use.time));
}

}  // namespace er
