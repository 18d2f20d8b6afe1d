// Rigid poses and rotations. A Pose maps coordinates of its own frame to those of the outer frame.
#pragma once

#include <Eigen/Core>

namespace er {

using Vector3 = Eigen::Vector3d;
using Matrix3 = Eigen::Matrix3d;

/// a b, written out: Eigen's own product of two such matrices is a call that compilers do not
/// inline.
inline Matrix3 product(const Matrix3& a, const Matrix3& b) {
  Matrix3 out;
  for (int c = 0; c < 3; ++c)
    for (int r = 0; r < 3; ++r)
      out(r, c) = a(r, 0) * b(0, c) + a(r, 1) * b(1, c) + a(r, 2) * b(2, c);
  return out;
}

/// a v, the same way.
inline Vector3 product(const Matrix3& a, const Vector3& v) {
  return {a(0, 0) * v[0] + a(0, 1) * v[1] + a(0, 2) * v[2],
          a(1, 0) * v[0] + a(1, 1) * v[1] + a(1, 2) * v[2],
          a(2, 0) * v[0] + a(2, 1) * v[1] + a(2, 2) * v[2]};
}

/// a^T v: the vector v as seen along the columns of a.
inline Vector3 in_axes_of(const Matrix3& a, const Vector3& v) {
  return {a.col(0).dot(v), a.col(1).dot(v), a.col(2).dot(v)};
}

struct Pose {
  Matrix3 rotation = Matrix3::Identity();
  Vector3 position = Vector3::Zero();

  static Pose at(const Vector3& position) { return {Matrix3::Identity(), position}; }

  Pose operator*(const Pose& inner) const {
    return {product(rotation, inner.rotation), product(rotation, inner.position) + position};
  }
  Vector3 operator*(const Vector3& point) const { return product(rotation, point) + position; }
  [[nodiscard]] Pose inverse() const {
    return {rotation.transpose(), -(rotation.transpose() * position)};
  }
};

/// For people to read: what is left of zeros by rounding (under 1e-12) would show as -0.000, and
/// turn 180 deg into -180 deg.
Pose without_rounding(const Pose& pose);

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
