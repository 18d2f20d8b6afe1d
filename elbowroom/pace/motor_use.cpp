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

// A moment of a motion, by the piece whose polynomials are asked: across their ends accelerations
// may jump.
struct Moment {
  std::size_t piece = 0;
  double time = 0.0;  // since the piece begins
};
using Moments = std::vector<Moment>;

// As functions of how fast the motion is gone along: it is a path whose parameter is time.
PathEfforts efforts_at(const Motion& motion, const ArmDynamics& dynamics, const Moments& moments) {
  PostureRows position(static_cast<Eigen::Index>(moments.size()), motion.dof());
  PostureRows velocity(position.rows(), position.cols());
  PostureRows acceleration(position.rows(), position.cols());
  for (Eigen::Index row = 0; row < position.rows(); ++row) {
    const Moment& moment = moments[static_cast<std::size_t>(row)];
    const CurvePiece& piece = motion.pieces()[moment.piece];
    for (Eigen::Index k = 0; k < position.cols(); ++k) {
      const ValueAndDerivatives at = all_at(piece.joints[static_cast<std::size_t>(k)], moment.time);
      position(row, k) = at.value;
      velocity(row, k) = at.first;
      acceleration(row, k) = at.second;
    }
  }
  return path_efforts(dynamics, {position, velocity, acceleration, velocity}, false);
}

double effort_of(const PathEfforts& efforts, Eigen::Index row, Eigen::Index k, double y) {
  const double rate = efforts.by_rate.size() > 0 ? efforts.by_rate(row, k) : 0.0;
  return efforts.still(row, k) + y * (rate + y * efforts.by_square(row, k));
}

// What is asked between a few looks is found by more of them, where second differences say that
// there may be more than anywhere else, or more than there is.
//
// A judge says up to which `effort(row, k)` of each joint all is well (`allowed`), and takes what
// is found.
class Looks {
 public:
  Looks(const Motion& motion, const ArmDynamics& dynamics, TorqueMoments moments)
      : motion_(motion),
        dynamics_(dynamics),
        short_ones_(motion.pieces().size() > 100),
        between_ends_(moments == TorqueMoments::between_ends) {}

  template <class Judge>
  void show(Judge& judge) const {
    // Few pieces at a time, for which there is room in the cache.
    constexpr std::size_t kFew = 128;
    const std::size_t pieces = motion_.pieces().size();
    for (std::size_t from = 0; from < pieces; from += kFew) {
      Moments moments;
      std::vector<std::size_t> ends;  // of the moments of each part
      for (std::size_t i = from; i < std::min(from + kFew, pieces); ++i)
        add_parts(i, moments, ends);
      const PathEfforts efforts = efforts_at(motion_, dynamics_, moments);
      judge.take(efforts, moments);
      std::size_t first = 0;
      for (const std::size_t end : ends) {
        if (!gaps_with_more(judge, efforts, moments, first, end).empty())
          look_closer(judge, Moments(moments.begin() + static_cast<std::ptrdiff_t>(first),
                                     moments.begin() + static_cast<std::ptrdiff_t>(end)));
        first = end;
      }
    }
  }

 private:
  static constexpr double kWorthALook = 1e-4;  // of what is allowed

  // A piece, or where joints with friction turn round within it, its parts: efforts jump there.
  void add_parts(std::size_t index, Moments& moments, std::vector<std::size_t>& ends) const {
    const CurvePiece& piece = motion_.pieces()[index];
    std::vector<double> cuts{0.0, piece.duration};
    for (std::size_t k = 0; k < piece.joints.size(); ++k) {
      if (dynamics_.friction()[static_cast<Eigen::Index>(k)] == 0.0) continue;
      const Roots turns = zeros_of(derivative_of(piece.joints[k]), piece.duration);
      cuts.insert(cuts.end(), turns.at.begin(),
                  turns.at.begin() + static_cast<std::ptrdiff_t>(turns.count));
    }
    std::sort(cuts.begin(), cuts.end());
    const double beside = kJustBeside * piece.duration;
    const bool whole = cuts.size() == 2;
    for (std::size_t c = 0; c + 1 < cuts.size(); ++c) {
      // Just within: a joint that has come to rest has no friction any more.
      const double begin = cuts[c] + beside;
      const double length = cuts[c + 1] - beside - begin;
      if (length <= 0.0) continue;
      if (whole && short_ones_ && between_ends_) {
        moments.push_back({index, begin + 0.5 * length});
      } else {
        const int intervals = short_ones_ ? 3 : 8;
        for (int i = 0; i <= intervals; ++i)
          moments.push_back({index, begin + length * i / intervals});
      }
      ends.push_back(moments.size());
    }
  }

  // Those of the gaps between moments, by the first of both, in which a joint may be asked for more
  // than is allowed.
  template <class Judge>
  static std::vector<std::size_t> gaps_with_more(const Judge& judge, const PathEfforts& efforts,
                                                 const Moments& moments, std::size_t first,
                                                 std::size_t end) {
    std::vector<std::size_t> out;
    if (end - first < 3) return out;
    const auto time = [&](std::size_t i) { return moments[i].time; };
    for (Eigen::Index k = 0; k < efforts.still.cols(); ++k) {
      const double allowed = judge.allowed(k);
      const auto effort = [&](std::size_t i) {
        return effort_of(efforts, static_cast<Eigen::Index>(i), k, judge.speed());
      };
      double most = 0.0;
      for (std::size_t i = first; i < end; ++i) most = std::max(most, std::abs(effort(i)));
      // However they lie, values up to this make no second differences that count.
      if (2.5 * most <= allowed && end - first <= 9) continue;
      const auto bend = [&](std::size_t i) {  // of the middle one of three
        const double before = (effort(i) - effort(i - 1)) / (time(i) - time(i - 1));
        const double after = (effort(i + 1) - effort(i)) / (time(i + 1) - time(i));
        return 2.0 * (after - before) / (time(i + 1) - time(i - 1));
      };
      for (std::size_t i = first; i + 1 < end; ++i) {
        const double at_start = bend(std::max(i, first + 1));
        const double at_end = bend(std::min(i + 1, end - 2));
        const double largest =
            std::max(std::abs(at_start), std::abs(at_end)) + std::abs(at_end - at_start);
        const double length = time(i + 1) - time(i);
        const double between = std::max(std::abs(effort(i)), std::abs(effort(i + 1))) +
                               0.125 * largest * length * length;
        if (between > (1.0 + kWorthALook) * allowed) out.push_back(i);
      }
    }
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
  }

  // Halves gaps of a part until none is left that may have more.
  template <class Judge>
  void look_closer(Judge& judge, Moments moments) const {
    constexpr int kMostRounds = 16;
    for (int round = 0; round < kMostRounds; ++round) {
      const PathEfforts efforts = efforts_at(motion_, dynamics_, moments);
      if (round > 0) judge.take(efforts, moments);
      const std::vector<std::size_t> gaps =
          gaps_with_more(judge, efforts, moments, 0, moments.size());
      if (gaps.empty()) return;
      for (const std::size_t i : gaps)
        moments.push_back({moments[i].piece, 0.5 * (moments[i].time + moments[i + 1].time)});
      std::sort(moments.begin(), moments.end(),
                [](const Moment& a, const Moment& b) { return a.time < b.time; });
    }
  }

  const Motion& motion_;
  const ArmDynamics& dynamics_;
  bool short_ones_;
  bool between_ends_;
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

// The largest share of a limit.
class PeakJudge {
 public:
  PeakJudge(const Motion& motion, const Posture& limits) : motion_(motion), limits_(limits) {}

  [[nodiscard]] static double speed() { return 1.0; }
  [[nodiscard]] double allowed(Eigen::Index k) const { return peak_.share * limits_[k]; }
  void take(const PathEfforts& efforts, const Moments& moments) {
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
class SpeedJudge {
 public:
  SpeedJudge(const Arm& arm, const Posture& most) : arm_(arm), most_(most) {}

  [[nodiscard]] double speed() const { return y_; }
  [[nodiscard]] double allowed(Eigen::Index k) const { return most_[k]; }
  void take(const PathEfforts& efforts, const Moments&) {
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
  Looks(motion, dynamics, TorqueMoments::all).show(judge);
  return judge.peak();
}

Verdict<double> stretch_for_torque(const Motion& motion, const Arm& arm, const Posture& most,
                                   const ArmDynamics& dynamics, TorqueMoments moments) {
  SpeedJudge judge(arm, most);
  Looks(motion, dynamics, moments).show(judge);
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
