#include "elbowroom/pace/motion.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"

namespace er {

namespace {

// At least the largest |value| over [0, end]: cheaper than bound_over, and wider.
double wide_bound_over(const Quintic& c, double end) {
  double sum = std::abs(c[5]);
  for (std::size_t k = 5; k-- > 0;) sum = std::abs(c[k]) + end * sum;
  return sum;
}

}  // namespace

MotionPeaks peaks_of(const Motion& motion, const Limits& limits) {
  MotionPeaks peaks;
  double start = 0.0;
  const auto consider = [&](PeakUse& peak, const Quintic& c, double end, const WayLimits& limit,
                            int joint) {
    // Most pieces cannot have the peak, which is quick to see.
    const double least = limit.either();
    if (peak.joint >= 0 &&
        (!std::isfinite(least) || wide_bound_over(c, end) <= peak.share * least ||
         bound_over(c, end) <= peak.share * least))
      return;
    const Extremes e = extremes_of(c, end);
    const double up = limit.share_of(e.high);
    const double down = limit.share_of(e.low);
    const double share = std::max(up, down);
    if (share > peak.share || peak.joint < 0)
      peak = {share, joint, start + (up >= down ? e.high_at : e.low_at)};
  };
  for (const CurvePiece& piece : motion.pieces()) {
    for (int k = 0; k < motion.dof(); ++k) {
      const Quintic v = derivative_of(piece.joints[static_cast<std::size_t>(k)]);
      const Quintic a = derivative_of(v);
      consider(peaks.velocity, v, piece.duration, limits.velocity_of(k), k);
      consider(peaks.acceleration, a, piece.duration, limits.acceleration_of(k), k);
      if (peaks.jerk.joint < 0 || std::isfinite(limits.jerk[k]))
        consider(peaks.jerk, derivative_of(a), piece.duration, {-limits.jerk[k], limits.jerk[k]},
                 k);
    }
    start += piece.duration;
  }
  return peaks;
}

double jump_before(const Motion& motion, std::size_t index, int joint, int derivative) {
  const auto& pieces = motion.pieces();
  const auto k = static_cast<std::size_t>(joint);
  if (derivative == 0 && (index == 0 || index == pieces.size())) return 0.0;
  const double before =
      index == 0 ? 0.0
                 : value_at(pieces[index - 1].joints[k], pieces[index - 1].duration, derivative);
  const double after =
      index == pieces.size() ? 0.0 : value_at(pieces[index].joints[k], 0.0, derivative);
  return after - before;
}

Motion resampled(const Motion& motion, double rate) {
  if (!(rate > 0.0) || !std::isfinite(rate) || motion.duration() * rate > 1e7)
    throw InputError(fmt::format("a rate of {} a second gives no sensible motion", rate));
  std::vector<CurvePiece> pieces;
  JointState a = motion.at(0.0);
  const auto count = static_cast<long>(std::ceil(motion.duration() * rate - 1e-9));
  double begin = 0.0;
  for (long i = 1; i <= count; ++i) {
    const double end = std::min(static_cast<double>(i) / rate, motion.duration());
    const JointState b = motion.at(end);
    CurvePiece piece{end - begin, {}};
    for (Eigen::Index k = 0; k < a.position.size(); ++k)
      piece.joints.push_back(quintic_between({a.position[k], a.velocity[k], a.acceleration[k]},
                                             {b.position[k], b.velocity[k], b.acceleration[k]},
                                             piece.duration));
    pieces.push_back(std::move(piece));
    a = b;
    begin = end;
  }
  return Motion(std::move(pieces));
}

std::string limits_table(const Motion& motion, const Arm& arm) {
  Table table(
      {"<joint", "travel", "peak velocity", "limit", "used", "peak acceleration", "limit", "used"});
  for (int k = 0; k < arm.dof(); ++k) {
    const Joint& joint = arm.moving_joint(k);
    Extremes velocity;
    Extremes acceleration;
    double low = std::numeric_limits<double>::infinity();
    double high = -low;
    for (const CurvePiece& piece : motion.pieces()) {
      const Quintic& c = piece.joints[static_cast<std::size_t>(k)];
      const auto widen = [&](const Quintic& p, Extremes& most) {
        const Extremes e = extremes_of(p, piece.duration);
        most.high = std::max(most.high, e.high);
        most.low = std::min(most.low, e.low);
      };
      widen(derivative_of(c), velocity);
      widen(derivative_of(derivative_of(c)), acceleration);
      const Extremes e = extremes_of(c, piece.duration);
      low = std::min(low, e.low);
      high = std::max(high, e.high);
    }
    const bool slides = joint.kind == JointKind::prismatic;
    const auto text = [&](double value, const char* per) {
      return fmt::format("{:.1f} {}{}", slides ? to_mm(value) : to_deg(value),
                         slides ? "mm" : "deg", per);
    };
    // Of the way that takes more of its limit.
    struct Use {
      double peak;
      double limit;
      double share;
    };
    const auto use_of = [](const Extremes& e, const WayLimits& limits) {
      const Use up{e.high, limits.high, limits.share_of(e.high)};
      const Use down{-e.low, -limits.low, limits.share_of(e.low)};
      return up.share >= down.share ? up : down;
    };
    const Use v = use_of(velocity, arm.limits().velocity_of(k));
    const Use a = use_of(acceleration, arm.limits().acceleration_of(k));
    table.row({joint.name, text(high - low, ""), text(v.peak, "/s"), text(v.limit, "/s"),
               fmt::format("{:.1f} %", 100.0 * v.share), text(a.peak, "/s^2"),
               text(a.limit, "/s^2"), fmt::format("{:.1f} %", 100.0 * a.share)});
  }
  return table.text();
}

}  // namespace er
