// Pacing: time put on a joint path or a tool's, within every limit.
#pragma once

#include <vector>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/pace/paced_motion.hpp"
#include "elbowroom/route/route.hpp"
#include "elbowroom/route/tool_curve.hpp"

namespace er {

/// The shortest motion of this profile through the waypoints in straight joint lines, all joints
/// starting and stopping together, at rest at each waypoint. A no names the joint and limit when
/// a waypoint is out of its range. Throws InputError for fewer than two different waypoints or a
/// limit that the profile needs and that is not stated. Given an arm alone, nothing is known of
/// zones. Torque limits are kept where they and the masses they need are stated. Rounded corners
/// stray from the lines: what is proved of a route beside its clearance, such as rules on the way,
/// does not hold of them.
Verdict<PacedMotion> pace(const std::vector<Posture>& waypoints, const Arm& arm,
                          const PaceOptions& options = {});
/// The same in a cell: a stretch that passes through a zone with a speed cap is slowed as a whole
/// until every point of the arm keeps the cap while it is in the zone.
Verdict<PacedMotion> pace(const std::vector<Posture>& waypoints, const CellQuery& query,
                          const PaceOptions& options = {});
Verdict<PacedMotion> pace(const Route& route, const CellQuery& query,
                          const PaceOptions& options = {});

/// Time on a tool's path. Profiles but time-optimal are laws of progress along it: the cubic and
/// the quintic stretched until every limit is kept, the trapezoid and the jerk-limited one at a
/// constant tool speed between ramps of constant tool acceleration (or jerk), such that every limit
/// is kept. The motion is near the curve that was proved and not quite on it, so it is proved and
/// measured anew as it stands.
Verdict<PacedMotion> pace(const ToolCurve& curve, const CellQuery& query,
                          const PaceOptions& options = {});

}  // namespace er
