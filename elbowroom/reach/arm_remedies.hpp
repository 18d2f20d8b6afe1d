// Remedies that leave the target as it is and change the arm: its mount lifted or lowered, its tool
// longer.
#pragma once

#include <vector>

#include "elbowroom/reach/reach.hpp"

namespace er {

/// The smallest of each that makes the target reachable, reached again with the changed arm,
/// contacts and all. Of a longer tool only the tip moves: the shape that brings it there is not
/// known.
std::vector<Remedy> arm_remedies(const CellQuery& query, const Target& target,
                                 const ReachOptions& options);

}  // namespace er
