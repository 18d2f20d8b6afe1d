// One joint run through its range while the others stay: how far it goes before parts of the arm
// meet.
#pragma once

#include <string>

#include "elbowroom/collision/cell_query.hpp"

namespace er {

/// How far one joint can go from a posture, down and up.
struct JointRun {
  double lower = 0.0;  ///< rad or m; within 1e-4 of the limit or of the first meeting
  double upper = 0.0;
  std::string met_below;  ///< the pair that meets there, or "" when the limit is reached
  std::string met_above;
};

/// Proved: between `lower` and `upper` nothing that `query` checks meets. The posture itself must
/// be free; if it is not, both ends are the posture's own value and both pairs say what meets. A
/// joint without a range is run half a turn (or half a metre) each way.
JointRun run_joint(const CellQuery& query, const PostureRef& posture, int joint);

}  // namespace er
