// Three turning joints whose axes meet in a point, as directions at zero, with what can be worked
// out once: a wrist or a shoulder.
#pragma once

#include "elbowroom/reach/screw_chain.hpp"

namespace er {

/// What the three turns together have to do, R, is asked as seen by the axes themselves: base^T R
/// end. Its first column is where the third axis goes, its first row where the first axis comes
/// from.
struct WristAxes {
  WristAxes(const Vector3& one, const Vector3& two, const Vector3& three);

  Matrix3 base;  ///< columns: the first axis; what of the second lies across it, as a direction;
                 ///< and what is at right angles to both
  Matrix3 end;   ///< the same of the third axis
  double first_cosine;  ///< of the angle from the first axis to the second
  double first_sine;
  double inverse_first_sine;
  double third_cosine;  ///< of the angle from the second axis to the third
  double third_sine;
  /// The third axis at zero, seen along the second: towards where the first axis points away, and
  /// along the third column of `base`.
  double third_away;
  double third_aside;
  bool at_right_angles;      ///< the first two, and the last two
  double twice_second_zero;  ///< twice the second turn's zero, counted from where the third axis
                             ///< points as far along the first as it can, rad
};

}  // namespace er
