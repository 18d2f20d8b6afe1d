#include "elbowroom/base/rotation_order.hpp"

#include <Eigen/Geometry>
#include <catch2/catch.hpp>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"

using namespace er;
using std::numbers::pi;

TEST_CASE("rotation orders: all 24 agree with products of quaternions, there and back") {
  CHECK(all_rotation_orders().size() == 24);
  RandomStream random(7);
  for (const RotationOrder& order : all_rotation_orders()) {
    INFO(name_of(order));
    CHECK(rotation_order_named(name_of(order)) == order);
    for (int n = 0; n < 50; ++n) {
      const bool repeats = order.axes[0] == order.axes[2];
      const Vector3 angles(
          random.uniform(-pi, pi),
          repeats ? random.uniform(0.01, pi - 0.01) : random.uniform(-pi / 2 + 0.01, pi / 2 - 0.01),
          random.uniform(-pi, pi));
      Eigen::Quaterniond q = Eigen::Quaterniond::Identity();
      for (int k = 0; k < 3; ++k) {
        const Eigen::Quaterniond turn(
            Eigen::AngleAxisd(angles[k], Vector3::Unit(order.axes[static_cast<std::size_t>(k)])));
        q = order.moving ? q * turn : turn * q;
      }
      const Matrix3 rotation = rotation_from(order, angles);
      CHECK((rotation - q.toRotationMatrix()).norm() < 1e-14);
      CHECK((angles_of(order, rotation) - angles).norm() < 1e-9);
    }
  }
}

TEST_CASE("rotation orders: where two axes coincide the rotation still comes back") {
  for (const RotationOrder& order : all_rotation_orders()) {
    INFO(name_of(order));
    const bool repeats = order.axes[0] == order.axes[2];
    for (const double middle : repeats ? std::vector{0.0, pi} : std::vector{-pi / 2, pi / 2}) {
      const Matrix3 rotation = rotation_from(order, {0.7, middle, -1.1});
      const Vector3 angles = angles_of(order, rotation);
      CHECK(angles[2] == 0.0);
      CHECK((rotation_from(order, angles) - rotation).norm() < 1e-9);
    }
  }
}

TEST_CASE("rotation orders: names") {
  CHECK(rotation_order_named("rpy") == RotationOrder{});
  CHECK(name_of(RotationOrder{true, {2, 1, 2}}) == "moving_zyz");
  CHECK(describe(RotationOrder{}) ==
        "turned about the fixed x, then the fixed y, then the fixed z");
  CHECK_THROWS_WITH(rotation_order_named("moving_zyzz"),
                    Catch::Contains("did you mean 'moving_zyz'?"));
}
