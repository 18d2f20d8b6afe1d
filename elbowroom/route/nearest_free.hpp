// From a posture that touches something to one nearby that does not.
#pragma once

#include <optional>

#include "elbowroom/collision/cell_query.hpp"

namespace er {

/// A posture within the ranges where everything keeps further away than `clearance` (m), near to
/// `posture`: looked for in growing shells of random postures about it, then drawn in, with as many
/// joints as can be left where they were, and the others at values as `changed_joints` tells them.
/// Near, not nearest: no other is promised to be further. Nothing when there is none within about
/// half a turn. The same seed gives the same one.
std::optional<Posture> nearest_free(const CellQuery& query, const Posture& posture,
                                    double clearance, std::uint64_t seed = 1);

/// "elbow at 98.20 deg, wrist_bend at ...": the joints in which `to` differs from `from`.
std::string changed_joints(const Arm& arm, const Posture& from, const Posture& to);

}  // namespace er
