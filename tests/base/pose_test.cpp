#include "elbowroom/base/pose.hpp"

#include <Eigen/Geometry>
#include <catch2/catch.hpp>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"

using namespace er;
using std::numbers::pi;

TEST_CASE("rpy turns about the fixed x, then y, then z") {
  // Roll a quarter: y goes to z. Then yaw a quarter about the fixed z: x goes to y.
  const Matrix3 r = rotation_from_rpy(pi / 2, 0, pi / 2);
  CHECK((r * Vector3::UnitX() - Vector3::UnitY()).norm() < 1e-15);
  CHECK((r * Vector3::UnitY() - Vector3::UnitZ()).norm() < 1e-15);
  CHECK((r * Vector3::UnitZ() - Vector3::UnitX()).norm() < 1e-15);
  // The textbook matrix Rz(c) Ry(b) Rx(a), entry by entry.
  const double a = 0.3, b = -0.7, c = 1.9;
  Matrix3 expected;
  expected << std::cos(c) * std::cos(b),
      std::cos(c) * std::sin(b) * std::sin(a) - std::sin(c) * std::cos(a),
      std::cos(c) * std::sin(b) * std::cos(a) + std::sin(c) * std::sin(a),
      std::sin(c) * std::cos(b),
      std::sin(c) * std::sin(b) * std::sin(a) + std::cos(c) * std::cos(a),
      std::sin(c) * std::sin(b) * std::cos(a) - std::cos(c) * std::sin(a), -std::sin(b),
      std::cos(b) * std::sin(a), std::cos(b) * std::cos(a);
  CHECK((rotation_from_rpy(a, b, c) - expected).norm() < 1e-15);
}

TEST_CASE("rotations survive every way of writing them") {
  RandomStream random(3);
  for (int i = 0; i < 2000; ++i) {
    const Matrix3 r = rotation_from_rpy(random.uniform(-pi, pi), random.uniform(-pi / 2, pi / 2),
                                        random.uniform(-pi, pi));
    CHECK((r.transpose() * r - Matrix3::Identity()).norm() < 1e-14);
    CHECK(r.determinant() == Approx(1.0));
    const Vector3 rpy = rpy_of(r);
    CHECK((rotation_from_rpy(rpy.x(), rpy.y(), rpy.z()) - r).norm() < 1e-13);
    CHECK((rotation_from_quaternion(quaternion_wxyz(r)) - r).norm() < 1e-13);
    CHECK(quaternion_wxyz(r)[0] >= 0.0);
    const Vector3 v = rotation_vector(r);
    CHECK((Eigen::AngleAxisd(v.norm(), v.normalized()).toRotationMatrix() - r).norm() < 1e-12);
  }
}

TEST_CASE("rpy at pitch 90 deg gives back the rotation, with yaw 0") {
  for (const double pitch : {pi / 2, -pi / 2}) {
    const Matrix3 r = rotation_from_rpy(0.4, pitch, 1.1);
    const Vector3 rpy = rpy_of(r);
    CHECK(rpy.z() == 0.0);
    CHECK((rotation_from_rpy(rpy.x(), rpy.y(), rpy.z()) - r).norm() < 1e-9);
  }
}

TEST_CASE("rotation vectors at no turn, a tiny turn and half a turn") {
  CHECK(rotation_vector(Matrix3::Identity()).norm() == 0.0);
  const Vector3 axis = Vector3(1, 2, -2).normalized();
  CHECK((rotation_vector(rotation_about(axis, 1e-9)) - 1e-9 * axis).norm() < 1e-16);
  CHECK(rotation_vector(rotation_about(axis, pi)).norm() == Approx(pi));
  CHECK((rotation_vector(rotation_about(axis, 3.0)) - 3.0 * axis).norm() < 1e-13);
  for (double angle = 1e-8; angle < 3.0; angle *= 1.07)  // past where the arc's series is left
    CHECK((rotation_vector(rotation_about(axis, angle)) - angle * axis).norm() <
          3e-16 + 2e-15 * angle);
}

TEST_CASE("poses chain and invert") {
  const Pose a{rotation_from_rpy(0.1, 0.2, 0.3), {1, 2, 3}};
  const Pose b{rotation_from_rpy(-1, 0.5, 2), {-4, 5, 6}};
  const Vector3 p(0.3, -0.2, 0.9);
  CHECK(((a * b) * p - a * (b * p)).norm() < 1e-14);
  const Pose none = a * a.inverse();
  CHECK((none.rotation - Matrix3::Identity()).norm() < 1e-15);
  CHECK(none.position.norm() < 1e-15);
}

TEST_CASE("a quaternion of zero length is refused") {
  CHECK_THROWS_WITH(rotation_from_quaternion({0, 0, 0, 0}),
                    "a quaternion of zero length gives no rotation\n  no rotation is 1, 0, 0, 0");
  CHECK((rotation_from_quaternion({3, 0, 0, 0}) - Matrix3::Identity()).norm() == 0.0);
}

TEST_CASE("a frame made around a direction is a right-handed rotation") {
  RandomStream random(5);
  for (int i = 0; i < 200; ++i) {
    const Vector3 z =
        Vector3(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1)).normalized();
    const Matrix3 r = rotation_with_z(z);
    CHECK((r.col(2) - z).norm() == 0.0);
    CHECK(r.determinant() == Approx(1.0));
  }
}
