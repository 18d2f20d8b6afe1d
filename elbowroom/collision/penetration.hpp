// How deep two overlapping convex cores are in each other.
#pragma once

#include "elbowroom/model/core_shape.hpp"

namespace er {

/// The shortest move along `normal` that takes A out of B.
struct Penetration {
  double depth = 0.0;
  Vector3 normal = Vector3::UnitZ();  ///< unit, from B towards A
  Vector3 point_a = Vector3::Zero();  ///< the point of A that is deepest in B
  Vector3 point_b = Vector3::Zero();  ///< the point of B that is deepest in A
};

/// For cores that touch or overlap, where `touching` is a point of both. Two thin cores (points,
/// segments) that cross there have depth 0. Moving A by depth along normal frees the two for
/// certain: the depth is never too small. Allocates nothing.
Penetration penetration(const CoreShape& a, const CoreShape& b, const Vector3& touching);

}  // namespace er
