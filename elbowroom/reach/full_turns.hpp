// Full turns: all postures that are the same but for whole turns of a joint.
#pragma once

#include <vector>

#include "elbowroom/model/arm.hpp"

namespace er {

/// Appends every way to add full turns to the turning joints of a posture such that they are within
/// the bounds (one value each; to 1e-12), lower values first. A joint without an end takes the turn
/// nearest to `from`. Other joints stay as they are.
void append_full_turns(const Arm& arm, const Posture& lower, const Posture& upper,
                       const Posture& posture, const Posture& from, std::vector<Posture>& out);

}  // namespace er
