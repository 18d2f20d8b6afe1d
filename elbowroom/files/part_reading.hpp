// How the parts of links, bodies and zones are read.
#pragma once

#include <vector>

#include "elbowroom/files/document.hpp"
#include "elbowroom/model/shape.hpp"

namespace er {

/// One shape by its own key, with `at`, `colour`, `material`, `texture` and `for` beside it: see
/// docs/cell-file.md. `next` is where the joint of the next link is, for ends of round shapes; null
/// without one.
Part read_part(const Node& node, const Colour& colour, const Vector3* next = nullptr);
std::vector<Part> read_parts(const Node& node, const Colour& colour, const Vector3* next = nullptr);

}  // namespace er
