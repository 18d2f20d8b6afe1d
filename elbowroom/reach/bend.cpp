#include "elbowroom/reach/bend.hpp"

#include <Eigen/Geometry>
#include <cmath>

namespace er {

// |turned - other|^2 = |moved|^2 + |other|^2 - 2 other . turned, of which what lies along the axis
// stays.
DistanceBend::DistanceBend(const Vector3& axis, const Vector3& moved, const Vector3& other) {
  const double along = axis.dot(moved) * axis.dot(other);
  by_cosine = other.dot(moved) - along;
  by_sine = other.dot(axis.cross(moved));
  size = std::hypot(by_cosine, by_sine);
  inverse_size = size > 0.0 ? 1.0 / size : 0.0;
  half_squares = 0.5 * (moved.squaredNorm() + other.squaredNorm()) - along;
}

}  // namespace er
