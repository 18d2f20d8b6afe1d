// Why a target cannot be reached, and what change of it would do.
#pragma once

#include <vector>

#include "elbowroom/reach/reach.hpp"

namespace er {

/// The reason for a no. `colliding` are the postures that meet the target but are too near
/// something, `beyond` those of a closed form that leave the ranges; `search` tells whether there
/// are others. In this order: in collision; beyond limits; position but not orientation; out of
/// reach. Each remedy is solved again, collisions included, before it is listed.
Reason explain_no(const CellQuery& query, const Target& target, const ReachOptions& options,
                  const std::vector<ReachSolution>& colliding, const std::vector<Posture>& beyond,
                  const Reach& search);

}  // namespace er
