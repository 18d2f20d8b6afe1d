// The joint velocities that are allowed in one step: within every limit, and such that each joint
// can still stop before the end of its range.
#pragma once

#include <array>

#include "elbowroom/model/arm.hpp"

namespace er {

enum class LimitKind { none, velocity, acceleration, range };

/// rad/s or m/s, per joint; never empty. Lives on the stack.
struct JointBox {
  Posture lower;
  Posture upper;
  std::array<LimitKind, kMaxJoints> lower_by;  ///< which limit each side comes from
  std::array<LimitKind, kMaxJoints> upper_by;

  [[nodiscard]] LimitKind held_by(int joint, bool up) const {
    return (up ? upper_by : lower_by)[static_cast<std::size_t>(joint)];
  }
};

/// What each joint's velocity is measured in: its limit, or 1 rad/s or m/s where none is stated.
Posture velocity_units(const Limits& limits);

/// The velocities that velocity limits and ranges allow, however the joint moved before. A joint
/// that moves at v after the step needs v^2 / (2 a) to stop, so towards an end that is m away v is
/// at most sqrt((a T)^2 + 2 a m) - a T; kept once, this can be kept in every later step without
/// breaking the acceleration limit. Allocates nothing.
void lasting_box(const Limits& limits, const PostureRef& posture, double period, JointBox& out);

/// The same for a step of `period` seconds at constant velocity after one at `before`: within the
/// acceleration limits, too. Allocates nothing.
void joint_box(const Limits& limits, const PostureRef& posture, const PostureRef& before,
               double period, JointBox& out);

}  // namespace er
