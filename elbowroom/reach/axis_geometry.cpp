#include "elbowroom/reach/axis_geometry.hpp"

#include <Eigen/Geometry>

namespace er {

bool are_parallel(const Screw& a, const Screw& b) {
  return a.axis.cross(b.axis).norm() < kAxisTolerance;
}

CommonNormal common_normal(const Screw& a, const Screw& b) {
  const double cosine = a.axis.dot(b.axis);
  const double sine2 = 1.0 - cosine * cosine;
  const Vector3 between = b.point - a.point;
  const double s = (between.dot(a.axis) - cosine * between.dot(b.axis)) / sine2;
  const double t = (cosine * between.dot(a.axis) - between.dot(b.axis)) / sine2;
  return {a.point + s * a.axis, b.point + t * b.axis};
}

std::optional<Vector3> meeting_point(const Screw& a, const Screw& b) {
  if (are_parallel(a, b)) return std::nullopt;
  const CommonNormal normal = common_normal(a, b);
  if (normal.length() > kAxisTolerance) return std::nullopt;
  return 0.5 * (normal.on_first + normal.on_second);
}

std::optional<Vector3> meeting_point(const Screw& a, const Screw& b, const Screw& c) {
  const auto point = meeting_point(a, b);
  if (!point || are_parallel(b, c) || distance_from(c, *point) > kAxisTolerance)
    return std::nullopt;
  return point;
}

double distance_from(const Screw& axis, const Vector3& point) {
  return axis.axis.cross(point - axis.point).norm();
}

}  // namespace er
