// What people should be told of how far joints turn: full turns that were chosen, large jumps.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/model/arm.hpp"

namespace er {

/// For each joint that could also end a full turn further or less within its range: where it ends,
/// where else it could, and which of them is the shorter way from the start.
std::vector<std::string> full_turn_notes(const Arm& arm, const Posture& start, const Posture& end);

/// Of waypoints that somebody gave: moves in which a joint turns by half a turn or more, or slides
/// over more than half its range, and whether the same place is nearer a full turn away. `names`
/// are those of the waypoints.
std::vector<std::string> large_jumps(const Arm& arm, const std::vector<Posture>& waypoints,
                                     const std::vector<std::string>& names);

}  // namespace er
