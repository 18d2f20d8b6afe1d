// The turn of a joint that brings a point to a distance from another: the elbow of an arm.
#pragma once

#include "elbowroom/base/pose.hpp"

namespace er {

/// cos(turn) * by_cosine + sin(turn) * by_sine = half_squares - distance^2 / 2.
struct DistanceBend {
  /// Both points relative to one on the axis (of unit length); `moved` is the one that turns.
  DistanceBend(const Vector3& axis, const Vector3& moved, const Vector3& other);

  double by_cosine;
  double by_sine;
  double size;          ///< of these two
  double inverse_size;  ///< 0 where it is nothing
  double half_squares;
};

}  // namespace er
