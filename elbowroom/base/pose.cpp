#include "elbowroom/base/pose.hpp"

#include <Eigen/Geometry>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/rotation_order.hpp"

namespace er {

Matrix3 rotation_about(const Vector3& axis, double angle) {
  // Rodrigues' formula.
  const double s = std::sin(angle);
  const double c = std::cos(angle);
  const Vector3 scaled = (1.0 - c) * axis;
  Matrix3 r;
  r << scaled.x() * axis.x() + c, scaled.x() * axis.y() - s * axis.z(),
      scaled.x() * axis.z() + s * axis.y(),  //
      scaled.y() * axis.x() + s * axis.z(), scaled.y() * axis.y() + c,
      scaled.y() * axis.z() - s * axis.x(),  //
      scaled.z() * axis.x() - s * axis.y(), scaled.z() * axis.y() + s * axis.x(),
      scaled.z() * axis.z() + c;
  return r;
}

Matrix3 rotation_from_rpy(double roll, double pitch, double yaw) {
  return rotation_about(Vector3::UnitZ(), yaw) * rotation_about(Vector3::UnitY(), pitch) *
         rotation_about(Vector3::UnitX(), roll);
}

Pose without_rounding(const Pose& pose) {
  const auto clean = [](double v) { return std::abs(v) < 1e-12 ? 0.0 : v; };
  return {pose.rotation.unaryExpr(clean), pose.position.unaryExpr(clean)};
}

Vector3 rpy_of(const Matrix3& rotation) { return angles_of(RotationOrder{}, rotation); }

Vector3 rotation_vector(const Matrix3& rotation) {
  // Of a small turn the sine's axis, by the series of the arc: exact to the last digit (the next
  // term is square^3).
  const Vector3 sines =
      0.5 * Vector3(rotation(2, 1) - rotation(1, 2), rotation(0, 2) - rotation(2, 0),
                    rotation(1, 0) - rotation(0, 1));
  const double square = sines.squaredNorm();
  if (square < 1e-6 && rotation.trace() > 0.0)
    return (1.0 + square * (1.0 / 6.0 + square * 0.075)) * sines;
  const Eigen::Quaterniond q(rotation);
  const double sign = q.w() < 0 ? -1.0 : 1.0;
  const double sine = q.vec().norm();
  const double angle = 2.0 * std::atan2(sine, sign * q.w());
  return (sign * angle / sine) * q.vec();
}

Eigen::Vector4d quaternion_wxyz(const Matrix3& rotation) {
  Eigen::Quaterniond q(rotation);
  q.normalize();
  if (q.w() < 0) q.coeffs() = -q.coeffs();
  return {q.w(), q.x(), q.y(), q.z()};
}

Matrix3 rotation_from_quaternion(const Eigen::Vector4d& wxyz) {
  const double length = wxyz.norm();
  if (!(length > 1e-12) || !std::isfinite(length))
    throw InputError("a quaternion of zero length gives no rotation", "no rotation is 1, 0, 0, 0");
  const Eigen::Vector4d unit = wxyz / length;
  return Eigen::Quaterniond(unit(0), unit(1), unit(2), unit(3)).toRotationMatrix();
}

Matrix3 nearest_rotation(const Matrix3& matrix) {
  return Eigen::Quaterniond(matrix).normalized().toRotationMatrix();
}

Vector3 any_perpendicular(const Vector3& direction) {
  int smallest = 0;
  direction.cwiseAbs().minCoeff(&smallest);
  return direction.cross(Vector3::Unit(smallest)).normalized();
}

Matrix3 rotation_with_z(const Vector3& direction) {
  Matrix3 r;
  r.col(2) = direction;
  r.col(0) = any_perpendicular(direction);
  r.col(1) = direction.cross(r.col(0));
  return r;
}

}  // namespace er
