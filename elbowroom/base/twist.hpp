// Velocities of rigid motion, in world axes.
#pragma once

#include "elbowroom/base/pose.hpp"

namespace er {

/// The velocity of one point and the turning about it, m/s and rad/s; or per unit of something.
struct Twist {
  Vector3 velocity = Vector3::Zero();
  Vector3 turning = Vector3::Zero();
};

inline Twist operator+(const Twist& a, const Twist& b) {
  return {a.velocity + b.velocity, a.turning + b.turning};
}
inline Twist operator-(const Twist& a, const Twist& b) {
  return {a.velocity - b.velocity, a.turning - b.turning};
}
inline Twist operator*(double s, const Twist& a) { return {s * a.velocity, s * a.turning}; }

/// The twist of a pose's own point that takes one pose to another in so long (s).
Twist twist_between(const Pose& from, const Pose& to, double duration);
/// And back: where a pose is after so long.
Pose moved(const Pose& from, const Twist& twist, double duration);

}  // namespace er
