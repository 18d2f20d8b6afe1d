// Remedies that move or turn a target, the least of each kind.
#pragma once

#include <vector>

#include "elbowroom/reach/reach.hpp"

namespace er {

/// The least of shifts along the world's axes, and along `also` (world; nothing: none).
std::vector<Remedy> shift_remedies(const CellQuery& query, const Target& target,
                                   const ReachOptions& options, const Vector3& also);

/// The nearest to a pose that an arm was found to come.
struct NearestPoses {
  bool can_be_met = false;  ///< the place, in some orientation
  Pose least_turned;        ///< as near to the place as can be, then to the orientation
  Pose as_asked;            ///< as near to the place as can be in the orientation asked for
};
/// For a target of one full pose: shifted, turned where it is, or both, as little beyond the
/// nearest as it takes.
std::vector<Remedy> pose_remedies(const CellQuery& query, const Target& target,
                                  const ReachOptions& options, const NearestPoses& nearest);

}  // namespace er
