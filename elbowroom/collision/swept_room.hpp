// The room that an arm takes up along a joint path.
#pragma once

#include <vector>

#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/model/box_tree.hpp"

namespace er {

/// A box along the axes of the world that holds every part that any joint moves, along the whole
/// continuous path; larger than the smallest one by up to twice `within` (m) on each side. Throws
/// InputError for no waypoint.
AlignedBox swept_room(const CellQuery& query, const std::vector<Posture>& waypoints,
                      double within = 0.005);

/// "x -300 to 450 mm, y -20 to 80 mm, z 300 to 1200 mm": rounded outwards.
std::string text_of(const AlignedBox& room);

}  // namespace er
