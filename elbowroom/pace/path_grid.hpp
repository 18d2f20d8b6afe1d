// A path at the points of a grid.
#pragma once

#include <vector>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/dynamics/inverse_dynamics.hpp"

namespace er {

/// Points along a path, those at which its pieces meet among them.
struct PathGrid {
  std::vector<double> at;       ///< the path's parameter
  std::vector<double> lengths;  ///< of the intervals, one fewer
  PostureRows position;         ///< one row a point, and its derivatives by the parameter
  PostureRows slope;
  PostureRows curvature;

  [[nodiscard]] std::size_t points() const { return at.size(); }
  [[nodiscard]] std::size_t intervals() const { return lengths.size(); }
};

/// So many intervals, of one length, in each piece of the path. In vector lanes; the same bits on
/// every instruction set.
PathGrid path_grid(const JointCurve& path, const std::vector<int>& intervals);

}  // namespace er
