// The point of a simplex (1 to 4 points) that is nearest to the origin, and which of the points
// carry it. Region tests after C. Ericson, "Real-Time Collision Detection", 2005, chapter 5.
#pragma once

#include <array>

#include "elbowroom/base/pose.hpp"

namespace er {

/// A point of the Minkowski difference A - B, with the points of A and B it came from.
struct DifferencePoint {
  Vector3 v;
  Vector3 a;
  Vector3 b;
};

struct Simplex {
  std::array<DifferencePoint, 4> points;
  std::array<double, 4> weights{};  ///< of the nearest point; they sum to 1
  int count = 0;
};

/// Reduces `simplex` to the points that carry the nearest point, sets their weights and returns the
/// nearest point. A tetrahedron that holds the origin stays whole and gives zero.
Vector3 reduce_to_nearest(Simplex& simplex);

}  // namespace er
