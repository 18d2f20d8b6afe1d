#include "elbowroom/pace/motor_use.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/units.hpp"
#include "elbowroom/dynamics/gravity.hpp"

namespace er {

PeakUse torque_use(const Motion& motion, const Arm& arm, const DynamicsOptions& options) {
  PeakUse peak;
  const Posture& limits = arm.limits().torque;
  bool stated = false;
  for (const double limit : limits) stated = stated || std::isfinite(limit);
  if (!stated || !states_masses(arm)) return peak;
  DynamicsMemory memory(arm);
  Posture q(arm.dof());
  Posture v(arm.dof());
  Posture a(arm.dof());
  double start = 0.0;
  for (const CurvePiece& piece : motion.pieces()) {
    constexpr int kSamples = 8;
    for (int i = 0; i <= kSamples; ++i) {
      const double t = piece.duration * i / kSamples;
      for (int k = 0; k < arm.dof(); ++k) {
        // By the piece's own polynomials: across its ends accelerations may jump.
        const ValueAndDerivatives at = all_at(piece.joints[static_cast<std::size_t>(k)], t);
        q[k] = at.value;
        v[k] = at.first;
        a[k] = at.second;
      }
      const Posture effort = inverse_dynamics(arm, q, v, a, options, memory);
      for (int k = 0; k < arm.dof(); ++k)
        if (const double share = std::abs(effort[k]) / limits[k];
            std::isfinite(limits[k]) && share > peak.share)
          peak = {share, k, start + t};
    }
    start += piece.duration;
  }
  return peak;
}

std::string torque_text(const PeakUse& use, const Arm& arm) {
  if (use.joint < 0) return {};
  return fmt::format("{} {:.1f} % of the limit of {}, at {}",
                     use.share > 1.0 ? "torque limits are not kept:" : "torque at most",
                     100.0 * use.share, arm.moving_joint(use.joint).name, text_time(use.time));
}

}  // namespace er
