// How an arm is given the bodies of a mesh file.
#pragma once

#include "elbowroom/files/document.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

/// The key `bodies` of an arm: see docs/cell-file.md. Adds to the parts of the arm's links, which
/// are there already. What is left out, or was mended, is noted.
void read_bodies(const Node& node, const Colour& colour, ArmDescription& arm,
                 std::vector<Note>& notes);

}  // namespace er
