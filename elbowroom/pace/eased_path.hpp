// A path made ready for what begins and ends at rest with acceleration zero: s eased by a parameter
// z, and where along it limits are looked at.
#pragma once

#include <vector>

#include "elbowroom/dynamics/inverse_dynamics.hpp"
#include "elbowroom/pace/path_limits.hpp"
#include "elbowroom/pace/path_tool.hpp"

namespace er {

/// The path over z from 0 to 1, in intervals, with rows where limits are looked at: at both ends of
/// each interval, where third derivatives may jump, and within; in the first and last ones, over
/// which the first derivative grows from nothing, more often.
struct EasedPath {
  struct Row {
    std::size_t interval = 0;
    double by = 0.0;  ///< from its beginning, in z
  };
  std::vector<double> lengths;  ///< of the intervals, in z
  std::vector<Row> rows;
  PostureRows position;  ///< one row each, and the derivatives by z
  PostureRows first;
  PostureRows second;
  PostureRows third;
  PostureRows way;  ///< the first derivative by s, whose sign the eased one loses at the ends
  std::vector<double> most;    ///< (dz/dt)^2 by the limits of velocity and of the tool's speed
  std::vector<PathTool> tool;  ///< by z; where the limits name a link

  [[nodiscard]] std::size_t intervals() const { return lengths.size(); }
};

/// About so many intervals, denser where the path takes more time; two in each of its pieces at
/// least. Jerk limits are stated.
EasedPath eased_path(const JointCurve& path, const Arm& arm, const PathLimits& limits,
                     int intervals);

}  // namespace er
