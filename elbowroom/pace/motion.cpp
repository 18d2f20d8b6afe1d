#include "elbowroom/pace/motion.hpp"

namespace er {

MotionPeaks peaks_of(const Motion& motion, const Limits& limits) {
  MotionPeaks peaks;
  double start = 0.0;
  const auto consider = [&](PeakUse& peak, const Quintic& c, double end, double limit, int joint) {
    const Extremes e = extremes_of(c, end);
    const bool high = e.high >= -e.low;
    const double share = (high ? e.high : -e.low) / limit;
    if (share > peak.share || peak.joint < 0)
      peak = {share, joint, start + (high ? e.high_at : e.low_at)};
  };
  for (const CurvePiece& piece : motion.pieces()) {
    for (int k = 0; k < motion.dof(); ++k) {
      const Quintic v = derivative_of(piece.joints[static_cast<std::size_t>(k)]);
      const Quintic a = derivative_of(v);
      consider(peaks.velocity, v, piece.duration, limits.velocity[k], k);
      consider(peaks.acceleration, a, piece.duration, limits.acceleration[k], k);
      consider(peaks.jerk, derivative_of(a), piece.duration, limits.jerk[k], k);
    }
    start += piece.duration;
  }
  return peaks;
}

std::string range_breach(const Motion& motion, const Arm& arm) {
  for (const CurvePiece& piece : motion.pieces()) {
    Posture low(motion.dof());
    Posture high(motion.dof());
    for (int k = 0; k < motion.dof(); ++k) {
      const Extremes e = extremes_of(piece.joints[static_cast<std::size_t>(k)], piece.duration);
      low[k] = e.low;
      high[k] = e.high;
    }
    for (const Posture& q : {low, high})
      if (std::string breach = arm.limit_breach(q); !breach.empty()) return breach;
  }
  return {};
}

}  // namespace er
