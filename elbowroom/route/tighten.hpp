// Making a route shorter without losing its proof.
#pragma once

#include <cstdint>
#include <vector>

#include "elbowroom/route/line_prover.hpp"

namespace er {

/// Tries `shortcuts` random straight lines between two points of the path (anywhere on its lines)
/// and takes each that is shorter and proved free. After R. Geraerts and M. Overmars, "Creating
/// high-quality paths for motion planning", 2007, section on shortcuts.
std::vector<Posture> tighten(std::vector<Posture> waypoints, int shortcuts, std::uint64_t seed,
                             LineProver& prover);

}  // namespace er
