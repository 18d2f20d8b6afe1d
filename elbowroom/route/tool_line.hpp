// A straight line of the tool: the tip goes from where it is to a pose, turning evenly on the way.
#pragma once

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/kinematics/target.hpp"

namespace er {

struct ToolLineOptions {
  /// Proved along the whole line, metres.
  double clearance = 0.005;
  /// The most the tip may stray from the straight line, metres, and from the even turn, radians.
  double deviation = 2e-4;
  double turn_deviation = 2e-3;
};

/// A smooth joint curve that follows the line, at rest at both ends.
struct ToolLine {
  /// Over [0, 1]. Progress along the line is the quintic that starts and ends at rest.
  JointCurve curve = {};
  double length = 0.0;                ///< of the tip's path, metres
  double turn = 0.0;                  ///< of the tool, radians
  double worst_deviation = 0.0;       ///< from the line, metres: measured 8 times per piece
  double worst_turn_deviation = 0.0;  ///< from the even turn, radians
  double clearance = 0.0;             ///< proved for the curve itself, metres
};

/// Follows the line from `start`, staying on the branch it begins on. A no says how far the line
/// can be followed, and what ends it: a joint limit, a branch that ends, or something in the way.
Verdict<ToolLine> follow_line(const CellQuery& query, const Posture& start, const Target& target,
                              const ToolLineOptions& options = {});

}  // namespace er
