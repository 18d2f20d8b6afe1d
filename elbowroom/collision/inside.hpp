// Whether one thing is inside another that is solid: what no distance to surfaces tells. No motion
// that keeps clear of surfaces gets in or out, so one posture of it is enough.
#pragma once

#include <optional>

#include "elbowroom/collision/cell_query.hpp"

namespace er {

/// Two parts of which one is inside the other, a solid mesh, where no surface comes through the
/// other; `parts` are placed. The distance says how deep. Allocates nothing.
std::optional<Nearest> find_inside(const CellQuery& query, const PartPoses& parts);

}  // namespace er
