// Convex hulls of points.
#pragma once

#include <span>

#include "elbowroom/model/shape.hpp"

namespace er {

/// The convex hull of at least four points that do not lie in one plane. Its corners are some of
/// the points, as they are. Throws InputError when there is no volume.
Hull hull_of(std::span<const Vector3> points);

}  // namespace er
