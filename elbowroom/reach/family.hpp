// Singular postures that are one of a family.
#pragma once

#include "elbowroom/reach/closed_solutions.hpp"

namespace er {

/// Whether joints, six or fewer, together do less than so many can.
bool is_singular(const ScrewChain& chain, const double* values);

/// A joint of such a chain that may be moved in this posture, others giving way, while the tip
/// stays: that which moves most, the first of such. -1 where there is none, as in nearly every
/// posture; one at full stretch is singular, but no other does what it does. Allocates nothing.
int free_joint_of(const ScrewChain& chain, const ClosedSolution& solution);

}  // namespace er
