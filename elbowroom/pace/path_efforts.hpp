// What going along a path asks of the motors, as a function of how fast it is gone along.
#pragma once

#include <optional>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/dynamics/inverse_dynamics.hpp"

namespace er {

/// One row for each point of the path, one column a joint: with s the path's parameter, the effort
/// is by_growth d2s/dt2 + by_square (ds/dt)^2 + by_rate ds/dt + still, going forward.
struct PathEfforts {
  PostureRows by_growth;  ///< empty where it is not asked for
  PostureRows by_square;
  PostureRows by_rate;  ///< damping; empty where there is none
  PostureRows still;    ///< gravity, and friction against the way
};

/// The points of a path, and its first two derivatives by s. `way` has the sign of each joint's
/// motion where that is not the first derivative's (which may vanish); else it is the same.
struct PathRows {
  const PostureRows& position;
  const PostureRows& slope;
  const PostureRows& curvature;
  const PostureRows& way;
};
PathEfforts path_efforts(const ArmDynamics& dynamics, const PathRows& path, bool with_growth);

/// A no when holding still (and against friction) asks all of a motor, or more, somewhere.
std::optional<Reason> too_heavy_to_hold(const PostureRows& still, const Posture& most,
                                        const Arm& arm);

}  // namespace er
