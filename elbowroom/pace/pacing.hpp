// What pacing of waypoints and of tool moves have in common.
#pragma once

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/pace/paced_motion.hpp"
#include "elbowroom/pace/path_limits.hpp"

namespace er {

/// Throws InputError for options that mean nothing, or limits that they need and the arm does not
/// state.
void check_pacing(const Arm& arm, const PaceOptions& options);

/// The arm's limits along a path, as the options want them used; torques where they are stated.
PathLimits path_limits(const Arm& arm, const PaceOptions& options);

/// One stretch from rest to rest, slowed as a whole when it asks too much torque, which is noted in
/// `out`. A no where even holding still asks too much.
Verdict<Motion> slowed_for_torque(const Arm& arm, Motion stretch, int number, PacedMotion& out);
/// The same when a frame is faster than the options allow, or it is too fast for a zone of `query`,
/// which may be null.
Motion slowed_for_speeds(const Arm& arm, const CellQuery* query, const PaceOptions& options,
                         Motion stretch, int number, PacedMotion& out);

/// The quickest along a path from rest to rest, as the options want it and within torque limits, on
/// a grid of about so many intervals to begin with (0: see TimeOptimalOptions).
Verdict<Motion> quickest(const JointCurve& path, const Arm& arm, const PathLimits& limits,
                         const PaceOptions& options, int intervals);

/// Sets what is known of a finished motion: its peaks, and how fast frames are.
void look_at_peaks(const Arm& arm, const PaceOptions& options, PacedMotion& out);

}  // namespace er
