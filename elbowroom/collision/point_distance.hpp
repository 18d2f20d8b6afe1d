// How far a point is from a shape.
#pragma once

#include "elbowroom/model/shape.hpp"

namespace er {

/// A lower bound on the signed distance of a point from a shape, in the shape's frame: exact, but
/// for hulls, where it is exact inside and over a face, and clouds, where it is zero inside.
double point_distance(const Shape& shape, const Vector3& point);

}  // namespace er
