// The small questions that closed forms are put together from: one or two turns that take a point
// somewhere. After B. Paden, "Kinematics and Control of Robot Manipulators", 1986, and W. Kahan's
// notes; all axes go through the origin unless a point is given, directions have unit length.
#pragma once

#include "elbowroom/base/pose.hpp"
#include "elbowroom/base/trigonometric.hpp"

namespace er {

/// What of a vector lies across an axis.
Vector3 across(const Vector3& axis, const Vector3& v);

/// The rotation whose first axis is `along` (unit) and whose second lies towards `aside`, which is
/// not along it.
Matrix3 frame_of(const Vector3& along, const Vector3& aside);

/// The turn that a rotation about an axis is.
double turn_of(const Vector3& axis, const Matrix3& rotation);

/// The turn about an axis that takes p to q, or as near as a turn can.
double turn_onto(const Vector3& axis, const Vector3& p, const Vector3& q);

/// Turns about an axis after which a point p is a distance from q: |turn(p) - q| = d. All relative
/// to a point on the axis.
TwoAngles turns_to_distance(const Vector3& axis, const Vector3& p, const Vector3& q, double d);

/// Turns after which p is at a height along a direction: h . turn(p) = d.
TwoAngles turns_to_height(const Vector3& axis, const Vector3& p, const Vector3& h, double d);

/// Two turns after each other: turn about `first` (turn about `second` (p)) = q, for directions p
/// and q of one length. Up to two pairs; `any` when the first turn is free because both its sides
/// lie on its axis.
struct TwoTurns {
  int count = 0;
  bool any = false;
  double first[2] = {0.0, 0.0};
  double second[2] = {0.0, 0.0};
};
TwoTurns two_turns(const Vector3& first, const Vector3& second, const Vector3& p, const Vector3& q);

}  // namespace er
