// Newton's steps on the exact chain, for what a closed form or an elimination gave.
#pragma once

#include "elbowroom/reach/closed_solutions.hpp"

namespace er {

struct Polished {
  double position = 0.0;  ///< m, left between the wanted pose and the one reached
  double angle = 0.0;     ///< rad
};

/// Improves the `values` of a chain of up to six joints until the tip is at `wanted` to rounding,
/// or no step helps (with fewer than six joints none does). Never leaves them worse.
Polished polish(const ScrewChain& chain, const Pose& wanted,
                std::array<double, kMostClosedJoints>& values, int most_steps);

}  // namespace er
