// What closed forms and eliminations gave, put back through the chain, and improved by Newton's
// steps on it where rounding left something.
#pragma once

#include "elbowroom/reach/closed_solutions.hpp"

namespace er {

struct Polished {
  double position;  ///< m, left between the wanted pose and the one reached
  double chord;     ///< of the turn, 2 sin(angle / 2); of a little one that is the angle, rad
};

/// What is left at each of the solutions, and their values improved, in chains of six joints, until
/// the tip is at `wanted` to 1e-13, or no step helps, or after `most_steps`. No value is left worse
/// than it was; turns are within half a turn then. `left` holds kMostClosedSolutions. Allocates
/// nothing; the same bits on every instruction set.
void polish(const LaneChain& chain, const Pose& wanted, ClosedSolutions& solutions, int most_steps,
            Polished* left);

}  // namespace er
