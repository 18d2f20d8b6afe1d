// Flat polygons cut into triangles.
#pragma once

#include <array>
#include <span>
#include <vector>

#include "elbowroom/base/pose.hpp"

namespace er {

/// Cuts a polygon, which need not be convex, into triangles over the same corners and facing the
/// same way, by clipping ears (G. H. Meisters, "Polygons have ears", 1975), seen along its own
/// normal. Of what crosses itself the rest is cut as a fan. Fewer than three corners: none.
void cut_polygon(const std::vector<Vector3>& corners, std::span<const int> polygon,
                 std::vector<std::array<int, 3>>& out);

}  // namespace er
