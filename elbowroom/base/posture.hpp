// Joint vectors with inline storage: making, copying and adding them allocates nothing.
#pragma once

#include <Eigen/Core>

namespace er {

/// The most moving joints one arm may have. Fixed so that joint vectors live on the stack.
inline constexpr int kMaxJoints = 32;

/// The most joints of one arm that move, by themselves or following another.
inline constexpr int kMaxMovingLinks = 64;

/// One value per moving joint, in radians (revolute) or metres (prismatic), in the arm's order.
using Posture = Eigen::Matrix<double, Eigen::Dynamic, 1, Eigen::ColMajor, kMaxJoints, 1>;

/// How functions take a posture: any column of doubles, without a copy.
using PostureRef = Eigen::Ref<const Posture>;

}  // namespace er
