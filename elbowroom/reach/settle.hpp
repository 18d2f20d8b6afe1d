// A chain of joints, six or fewer, brought onto a pose nearby.
#pragma once

#include "elbowroom/reach/closed_solutions.hpp"

namespace er {

using PerJoint = Eigen::Matrix<double, Eigen::Dynamic, 1, 0, 6, 1>;
/// The tip's velocity (3), then how fast it turns (3), in world axes, for each joint.
using ChainJacobian = Eigen::Matrix<double, 6, Eigen::Dynamic, 0, 6, 6>;

ChainJacobian jacobian_of(const ScrewChain& chain, const double* values);

/// Each joint by so much; turns are within half a turn then.
void move_by(const ScrewChain& chain, const PerJoint& step, ClosedSolution& solution);

/// Newton's steps towards where the tip meets a pose, in the sense of least squares where there are
/// fewer joints than six (`polish` is for six, side by side), with a little damping so that a
/// singular posture is no obstacle. What is left, m or rad, whichever is more. Allocates nothing.
double settle(const ScrewChain& chain, const Pose& wanted, int most_steps,
              ClosedSolution& solution);

}  // namespace er
