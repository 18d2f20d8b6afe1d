// The quickest progress over a grid of points along a path: backward, the largest x = (ds/dt)^2
// from which the rest can still be kept within the limits, then forward, as much as that leaves.
//
// Every limit is linear in x and u = d2s/dt2, or one of the size of a vector that is; over an
// interval of constant u, x grows by 2 u times its length. So what a limit allows at one end of an
// interval is a function of what x is at its other end: a straight line, for a linear one. The
// lines of eight intervals are found side by side; going along is a matter of the least of a few
// values. (H. Pham and Q.-C. Pham, "A new approach to time-optimal path parameterization based on
// reachability analysis", 2018, whose linear programmes of two unknowns these are.)
#pragma once

#include <array>
#include <vector>

#include "elbowroom/dynamics/inverse_dynamics.hpp"

namespace er {

/// Limits at the points of a grid. Values by point, which the owner keeps.
struct GridLimits {
  /// low <= by_growth u + by_square x + still <= high; `still` alone keeps that.
  struct Linear {
    const double* by_growth = nullptr;
    const double* by_square = nullptr;
    const double* still = nullptr;  ///< or none
    double low = 0.0;
    double high = 0.0;
  };
  /// |by_growth u + by_square x| <= most, of vectors.
  struct Cone {
    std::array<const double*, 3> by_growth = {};
    std::array<const double*, 3> by_square = {};
    double most = 0.0;
  };
  const std::vector<double>& lengths;  ///< of the intervals, above zero
  const std::vector<double>& most;     ///< x by the limits of velocity, of each point
  std::vector<Linear> linear = {};
  std::vector<Cone> cones = {};
};

/// x of each point, from rest to rest. Each limit holds at both ends of every interval. In vector
/// lanes; the same bits on every instruction set.
void quickest_progress(const GridLimits& limits, std::vector<double>& x);

}  // namespace er
