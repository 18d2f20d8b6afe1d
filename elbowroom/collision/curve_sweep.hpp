// Proofs about curves: the whole of a joint curve keeps a clearance, not samples of it.
//
// A bit of the curve stays within a tube about the straight line between its ends: along that line
// it goes by the share that it has covered of the way (a polynomial), and what is left beside it is
// a polynomial for each joint, whose extremes are exact. A sweep of that line proves all that stays
// within such a tube. Bits that it cannot prove are halved, until the tube is too thin to matter.
#pragma once

#include <string>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/collision/sweep.hpp"

namespace er {

/// What a sweep of a curve found.
struct CurveSweep {
  bool free = false;
  double at =
      0.0;  ///< when not free: the parameter at which a pair is too near, or cannot be told from it
  Nearest blocking;  ///< when not free: that pair, there
  long sweeps = 0;   ///< straight lines, with their tubes, that it took
};

/// Proves that every checked pair keeps `clearance` (m) over the whole curve, or finds where not,
/// first place first. What comes within about a hundredth of a millimetre of the clearance may not
/// be provable, and counts as not free.
CurveSweep sweep_curve(const CellQuery& query, const JointCurve& curve, double clearance,
                       SweepMemory& memory);

/// Of a motion that is not free: "from 0.429 s on teasel.gripper and splash_wall are nearer
/// than 5.0 mm".
std::string describe(const CellQuery& query, const CurveSweep& sweep, double clearance);

}  // namespace er
