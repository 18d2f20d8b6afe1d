#include "elbowroom/reach/full_turns.hpp"

#include <cmath>

#include "elbowroom/base/units.hpp"

namespace er {

void append_full_turns(const Arm& arm, const Posture& lower, const Posture& upper,
                       const Posture& posture, const Posture& from, std::vector<Posture>& out) {
  const std::size_t first = out.size();
  out.push_back(posture);
  for (int k = 0; k < arm.dof(); ++k) {
    if (arm.moving_joint(k).kind != JointKind::revolute) continue;
    // Of what there is so far, each with every value of this joint.
    const std::vector<Posture> so_far(out.begin() + static_cast<std::ptrdiff_t>(first), out.end());
    out.resize(first);
    for (Posture one : so_far) {
      if (!std::isfinite(upper[k] - lower[k])) {
        one[k] = from[k] + std::remainder(one[k] - from[k], kTurn);
        out.push_back(one);
        continue;
      }
      const double lowest = one[k] - kTurn * std::floor((one[k] - lower[k] + 1e-12) / kTurn);
      for (double value = lowest; value <= upper[k] + 1e-12; value += kTurn) {
        one[k] = value;
        out.push_back(one);
      }
    }
  }
}

}  // namespace er
