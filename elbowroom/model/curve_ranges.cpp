#include "elbowroom/model/curve_ranges.hpp"

#include "elbowroom/base/polynomial.hpp"

namespace er {

std::optional<LeftRange> leaves_ranges(const JointCurve& curve, const Arm& arm) {
  double at = 0.0;
  for (const CurvePiece& piece : curve.pieces()) {
    Posture low(curve.dof());
    Posture high(curve.dof());
    for (int k = 0; k < curve.dof(); ++k) {
      const Extremes e = extremes_of(piece.joints[static_cast<std::size_t>(k)], piece.duration);
      low[k] = e.low;
      high[k] = e.high;
    }
    for (const Posture& q : {low, high})
      if (std::string breach = arm.limit_breach(q); !breach.empty())
        return LeftRange{at, std::move(breach)};
    at += piece.duration;
  }
  return std::nullopt;
}

}  // namespace er
