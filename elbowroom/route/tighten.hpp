// Making a route cheaper without losing its proof.
#pragma once

#include <cstdint>
#include <vector>

#include "elbowroom/route/cost_meter.hpp"
#include "elbowroom/route/line_prover.hpp"

namespace er {

inline constexpr int kShortcutRound = 15;

struct Tightening {
  int shortcuts = 400;       ///< tried at most, cuts off corners among them
  double worthwhile = 0.01;  ///< a round that gains less than this share is the last one
};

/// Cuts off corners, where shorter is cheaper; then tries random straight lines between two points
/// of the path (anywhere on its lines). Takes each that costs less and is proved free; what could
/// gain next to nothing is not tried. After R. Geraerts and M. Overmars, "Creating
/// high-quality paths for motion planning", 2007, section on shortcuts.
std::vector<Posture> tighten(std::vector<Posture> waypoints, const Tightening& how,
                             std::uint64_t seed, LineProver& prover, CostMeter& meter);

}  // namespace er
