// Rigid poses and rotations. A Pose maps coordinates of its own frame to those of the outer frame.
#pragma once

#include <Eigen/Core>

namespace er {

using Vector3 = Eigen::Vector3d;
using Matrix3 = Eigen::Matrix3d;

struct Pose {
  Matrix3 rotation = Matrix3::Identity();
  Vector3 position = Vector3::Zero();

  static Pose at(const Vector3& position) { return {Matrix3::Identity(), position}; }

  Pose operator*(const Pose& inner) const {
    return {rotation * inner.rotation, rotation * inner.position + position};
  }
  Vector3 operator*(const Vector3& point) const { return rotation * point + position; }
  [[nodiscard]] Pose inverse() const {
    return {rotation.transpose(), -(rotation.transpose() * position)};
  }
};

/// Fixed-axis roll, pitch, yaw about x, y, z, applied in that order: R = Rz(yaw) Ry(pitch)
/// Rx(roll).
Matrix3 rotation_from_rpy(double roll, double pitch, double yaw);

/// The inverse of rotation_from_rpy, pitch in [-90 deg, 90 deg]. Where pitch is +-90 deg and only
/// a sum of roll and yaw is determined, yaw is 0.
Vector3 rpy_of(const Matrix3& rotation);

/// Rotation by `angle` about the unit vector `axis`. Allocates nothing.
Matrix3 rotation_about(const Vector3& axis, double angle);

/// The rotation vector (axis times angle, angle in [0, pi]) of a rotation matrix.
Vector3 rotation_vector(const Matrix3& rotation);

/// A unit quaternion as w, x, y, z with w >= 0.
Eigen::Vector4d quaternion_wxyz(const Matrix3& rotation);

/// From w, x, y, z of any length but zero (throws InputError).
Matrix3 rotation_from_quaternion(const Eigen::Vector4d& wxyz);

/// The rotation that a matrix is but for rounding.
Matrix3 nearest_rotation(const Matrix3& matrix);

/// Some unit vector at right angles to `direction`.
Vector3 any_perpendicular(const Vector3& direction);

/// A rotation whose z axis is the unit vector `direction`.
Matrix3 rotation_with_z(const Vector3& direction);

}  // namespace er
