#include "elbowroom/collision/point_distance.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace er {
namespace {

// Of a solid that is at most `outside` beyond each of its sides: the gap, or how deep inside.
double gap_beyond(const auto& outside) {
  return outside.cwiseMax(0.0).matrix().norm() + std::min(outside.maxCoeff(), 0.0);
}

double to_hull(const HullData& hull, const Vector3& point) {
  double furthest = -std::numeric_limits<double>::infinity();
  for (const HullPlane& plane : hull.planes)
    furthest = std::max(furthest, plane.normal.dot(point) - plane.offset);
  return std::max(furthest, (point - hull.middle).norm() - hull.radius);
}

}  // namespace

double point_distance(const Shape& shape, const Vector3& point) {
  if (const auto* box = std::get_if<Box>(&shape))
    return gap_beyond(point.array().abs() - 0.5 * box->size.array());
  if (const auto* sphere = std::get_if<Sphere>(&shape)) return point.norm() - sphere->radius;
  const double across = std::hypot(point.x(), point.y());
  if (const auto* cylinder = std::get_if<Cylinder>(&shape))
    return gap_beyond(
        Eigen::Array2d(across - cylinder->radius, std::abs(point.z()) - 0.5 * cylinder->length));
  if (const auto* capsule = std::get_if<Capsule>(&shape))
    return std::hypot(across, std::max(std::abs(point.z()) - 0.5 * capsule->length, 0.0)) -
           capsule->radius;
  return to_hull(*std::get<Hull>(shape).data, point);
}

}  // namespace er
