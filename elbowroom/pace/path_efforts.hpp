// What going along a path asks of the motors, as a function of how fast it is gone along.
#pragma once

#include <optional>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/dynamics/inverse_dynamics.hpp"

namespace er {

/// One row for each point of the path, one column a joint: with s the path's parameter, the effort
/// at an even pace is by_square (ds/dt)^2 + by_rate ds/dt + still, going forward.
struct EvenEfforts {
  PostureRows by_square;
  PostureRows by_rate;  ///< damping
  PostureRows still;    ///< gravity, and friction against the way
};

/// Positions of the points, and their first and second derivatives by s. `way` has the sign of each
/// joint's motion where that is not the first derivative's (which may vanish); else it is the same.
EvenEfforts even_efforts(const Arm& arm, const DynamicsOptions& options,
                         const PostureRows& position, const PostureRows& slope,
                         const PostureRows& curvature, const PostureRows& way);

/// What d2s/dt2 adds for each unit of it.
PostureRows efforts_by_growth(const Arm& arm, const DynamicsOptions& options,
                              const PostureRows& position, const PostureRows& slope);

/// A no when holding still (and against friction) asks all of a motor, or more, somewhere.
std::optional<Reason> too_heavy_to_hold(const PostureRows& still, const Posture& most,
                                        const Arm& arm);

}  // namespace er
