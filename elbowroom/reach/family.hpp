// Singular postures that are one of a family.
#pragma once

#include "elbowroom/reach/closed_solutions.hpp"

namespace er {

/// A joint of the chain that may be turned in this posture, others giving way, while the tip stays:
/// that which moves most, the first of such. -1 where there is none, as in nearly every posture;
/// one at full stretch is singular, but no other does what it does. For chains of up to six joints.
int free_joint_of(const ScrewChain& chain, const ClosedSolution& solution);

/// A chain's joints brought to where its tip meets a pose, by Newton's steps from a posture near
/// there, with a little damping so that a singular one is no obstacle; in the sense of least
/// squares where they are fewer than six. What is left, m or rad, whichever is more. Turns are
/// within half a turn then. Allocates nothing.
double settle(const ScrewChain& chain, const Pose& wanted, int most_steps,
              ClosedSolution& solution);

}  // namespace er
