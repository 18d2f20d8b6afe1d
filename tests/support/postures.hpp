// Postures to solve for, in tests and benchmarks.
#pragma once

#include <algorithm>

#include "elbowroom/base/random.hpp"
#include "elbowroom/model/arm.hpp"

namespace er::test {

/// Each joint at an end of its range or at zero as often as not.
inline Posture hard_posture(RandomStream& random, const Arm& arm) {
  Posture q = random.between(arm.limits().lower, arm.limits().upper);
  for (int k = 0; k < arm.dof(); ++k) {
    const int choice = random.index(4);
    if (choice == 0) q[k] = arm.limits().lower[k];
    if (choice == 1) q[k] = arm.limits().upper[k];
    if (choice == 2) q[k] = std::clamp(0.0, arm.limits().lower[k], arm.limits().upper[k]);
  }
  return q;
}

}  // namespace er::test
