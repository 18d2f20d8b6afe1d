// A motion over the points of a grid along a path: each interval the quintics that meet the path's
// position, velocity and acceleration at its ends.
#pragma once

#include "elbowroom/pace/path_grid.hpp"
#include "elbowroom/pace/path_limits.hpp"

namespace er {

/// At each point of a grid, the largest share of a velocity limit that a ds/dt of 1 uses.
Eigen::ArrayXd velocity_use(const PathGrid& grid, const PathLimits& limits);

/// A grid, and how it is gone along: u = d2s/dt2 is constant within each interval.
struct PacedGrid {
  /// From x = (ds/dt)^2 of each point, above zero at one end of each interval at least. The grid is
  /// not copied.
  PacedGrid(const PathGrid& grid, const std::vector<double>& x);

  const PathGrid& grid;
  std::vector<double> speed;     ///< ds/dt of each point
  std::vector<double> duration;  ///< of each interval
  std::vector<double> growth;    ///< u
};

/// How many times as long it must take to keep the limits of velocity and acceleration, inside of
/// intervals but those to be left out: below 1 where it could be quicker. The peaks are exact; most
/// intervals are seen not to have them by a bound, in vector lanes.
double stretch_to_keep(const PacedGrid& paced, const PathLimits& limits,
                       const std::vector<std::size_t>& left_out);

/// Appends the pieces of the intervals from one to before another, all `slowed` times as long.
void add_grid_pieces(const PacedGrid& paced, std::size_t from, std::size_t to, double slowed,
                     std::vector<CurvePiece>& pieces);

}  // namespace er
