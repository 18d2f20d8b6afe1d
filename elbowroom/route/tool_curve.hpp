// The joint curve that leads a tool along a line, an arc or a trace.
#pragma once

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/kinematics/target.hpp"
#include "elbowroom/route/tool_path.hpp"

namespace er {

struct ToolCurveOptions {
  /// Proved along the whole curve, metres.
  double clearance = 0.005;
  /// The most the tip may stray from the path, metres, and from the pose there, radians.
  double deviation = 2e-4;
  double turn_deviation = 2e-3;
};

/// A smooth joint curve that follows a path. It says where, not when.
struct ToolCurve {
  JointCurve curve = {};  ///< its parameter is that of the path
  ToolPath path;
  std::string tool = {};
  double worst_deviation = 0.0;       ///< from the path, metres: measured 4 times per piece
  double worst_turn_deviation = 0.0;  ///< from the pose there, radians
  double clearance = 0.0;             ///< proved for the curve itself, metres
  double deviation = 0.0;             ///< what was allowed, as in the options
  double turn_deviation = 0.0;
};

/// Follows a path with `tool` (empty: the first) from `start`, which is on its beginning, staying
/// on the branch it begins on: knots by numeric solves, each from the one before, and a spline
/// through them, of as many as it takes. A no says how far the path can be followed, and what ends
/// it: a joint limit, a branch that ends, or something in the way.
Verdict<ToolCurve> follow_tool_path(const CellQuery& query, const Posture& start,
                                    const std::string& tool, const ToolPath& path,
                                    const ToolCurveOptions& options = {});

/// The same where nothing is looked at but the arm: the curve is not proved free yet. With `near`,
/// a curve over the path's parameter from `start` on, it takes of the postures at each place that
/// nearest to it, where an arm has joints to spare.
Verdict<ToolCurve> curve_along(const Arm& arm, const Posture& start, const std::string& tool,
                               const ToolPath& path, const ToolCurveOptions& options = {},
                               const JointCurve* near = nullptr);
/// Only postures at even steps of the path's parameter, the start among them; in a fifth of the
/// time.
Verdict<std::vector<Posture>> knots_along(const Arm& arm, const Posture& start,
                                          const std::string& tool, const ToolPath& path);
/// That curve, proved to keep its clearance; or how far it does, and what is in the way.
Verdict<ToolCurve> proved_free(const CellQuery& query, ToolCurve curve);

/// A straight line from where the tool is to the pose that a target places it at.
Verdict<ToolCurve> follow_line(const CellQuery& query, const Posture& start, const Target& target,
                               const ToolCurveOptions& options = {});

/// A no that says how far a path can be followed, and what is there.
Reason cut_short(const ToolPath& path, double parameter, const std::string& why);
/// Why no posture near the last one goes on: a joint at its limit, or the branch ends.
std::string end_of_branch(const Arm& arm, const Posture& last);

/// How far the tool of a motion strays from the path at most: at `each` moments of each piece and
/// its end; the motion goes from the path's beginning to its end.
ToolPath::Deviation largest_deviation(const Arm& arm, const Tool& tool, const ToolPath& path,
                                      const JointCurve& motion, int each);

}  // namespace er
