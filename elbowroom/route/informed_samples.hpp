// Random postures that a route of less than a given length may go through.
#pragma once

#include <optional>
#include <vector>

#include "elbowroom/base/random.hpp"

namespace er {

/// A posture on a way from `start` to `goal` no longer than `longest` (2-norm), from the ellipsoid
/// with its foci there, evenly; nothing where it falls out of the ranges. After J. Gammell, S.
/// Srinivasa and T. Barfoot, "Informed RRT*", 2014, section IV.
std::optional<Posture> informed_sample(const Posture& start, const Posture& goal, double longest,
                                       const Posture& lower, const Posture& upper,
                                       RandomStream& random);

}  // namespace er
