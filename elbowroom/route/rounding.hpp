// Corners of a route rounded, so that an arm need not stop at them, and the whole proved free anew.
//
// About each corner the straight lines give way to a polynomial of degree four that meets them with
// the same direction and no curvature (its control points stand on the lines, evenly spaced, so it
// stays in the triangle that they span). Tightened routes lie with their corners on what they keep
// clear of; so each corner is first moved outward, as far as the curve cuts it, and only where that
// is not free it is cut as it stands.
#pragma once

#include <limits>
#include <vector>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/collision/cell_query.hpp"

namespace er {

/// How far a rounded corner may be from where the straight lines would have it.
struct CornerBounds {
  double angle = std::numeric_limits<double>::infinity();  ///< of turning joints, rad
  double length =
      std::numeric_limits<double>::infinity();  ///< of sliding joints, and of the tool's tip, m
  bool operator==(const CornerBounds&) const = default;
};

struct RoundingOptions {
  /// Proved for the whole rounded path, m.
  double clearance = 0.005;
  /// One of the two is finite, both above zero (InputError).
  CornerBounds bounds = {};
  /// The link that carries the tool, and its tip there; -1 leaves the tool out of bounds.length.
  int link = -1;
  Vector3 tip = Vector3::Zero();
};

/// A waypoint on the way.
struct Corner {
  std::size_t waypoint = 0;  ///< from 0
  double cut = 0.0;    ///< joint travel by which the curve begins before it; 0 is an exact stop
  bool moved = false;  ///< outward, before it was rounded
  Posture off;         ///< per joint: how far the curve is at most from the straight lines
};

/// A path in stretches of continuous direction and curvature; between two of them is an exact stop.
/// The parameter is the joint travel along straight lines, and about that on curves.
struct RoundedPath {
  /// The lines between waypoints that a piece is of: line n leads to waypoint n, from 0. A curve
  /// about a corner is of both that meet there.
  struct Lines {
    std::size_t first = 1;
    std::size_t last = 1;
  };
  std::vector<JointCurve> stretches = {};
  std::vector<std::vector<Lines>> lines = {};  ///< of each piece of each stretch
  std::vector<Corner> corners = {};  ///< all waypoints on the way at which the direction changes
};

/// Straight lines through waypoints, with a stop at each corner.
RoundedPath straight_path(const std::vector<Posture>& waypoints);

/// Rounds the corners of straight joint lines through `waypoints` (two different ones or more),
/// which are free themselves. Waypoints that are the same as the one before are left out. A corner
/// that cannot be rounded, even a little, stays one: there is an exact stop. Throws InputError when
/// nothing bounds the deviation, or a bound is not above zero.
RoundedPath round_corners(const CellQuery& query, const std::vector<Posture>& waypoints,
                          const RoundingOptions& options);

}  // namespace er
