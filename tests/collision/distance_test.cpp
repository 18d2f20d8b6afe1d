#include "elbowroom/collision/distance.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>

#include "support/allocations.hpp"
#include "support/cells.hpp"

using namespace er;
using er::test::random_pose;

namespace {

// The nearest point of a shape to a point, in closed form: what alternating projections need.
Vector3 project(const Shape& shape, const Pose& pose, const Vector3& point) {
  const Vector3 p = pose.inverse() * point;
  Vector3 out = p;
  if (const auto* box = std::get_if<Box>(&shape)) {
    out = p.cwiseMax(-0.5 * box->size).cwiseMin(0.5 * box->size);
  } else if (const auto* sphere = std::get_if<Sphere>(&shape)) {
    if (p.norm() > sphere->radius) out = p * (sphere->radius / p.norm());
  } else if (const auto* c = std::get_if<Cylinder>(&shape)) {
    const double across = std::hypot(p.x(), p.y());
    if (across > c->radius) out.head<2>() = p.head<2>() * (c->radius / across);
    out.z() = std::clamp(p.z(), -c->length / 2, c->length / 2);
  } else if (const auto* k = std::get_if<Capsule>(&shape)) {
    const Vector3 axis(0, 0, std::clamp(p.z(), -k->length / 2, k->length / 2));
    const Vector3 away = p - axis;
    if (away.norm() > k->radius) out = axis + away * (k->radius / away.norm());
  }
  return pose * out;
}

// A second formulation of distance, with nothing in common with the first: project to and fro
// between the two sets (J. von Neumann; for convex sets the steps close in on a nearest pair).
double projected_distance(const Shape& a, const Pose& pa, const Shape& b, const Pose& pb) {
  Vector3 x = pa.position;
  Vector3 y = project(b, pb, x);
  double last = 1e9;
  for (int i = 0; i < 200000; ++i) {
    x = project(a, pa, y);
    y = project(b, pb, x);
    const double now = (x - y).norm();
    if (last - now < 1e-14) break;
    last = now;
  }
  return (x - y).norm();
}

Shape random_shape(RandomStream& random) {
  const auto size = [&] { return random.uniform(0.02, 0.4); };
  switch (random.index(4)) {
    case 0:
      return Box{{size(), size(), size()}};
    case 1:
      return Sphere{size()};
    case 2:
      return Cylinder{size(), size()};
    default:
      return Capsule{size(), size()};
  }
}

// How far a shape reaches from its middle along a unit vector, in closed form.
double extent(const Shape& shape, const Pose& pose, const Vector3& n) {
  const Vector3 local = pose.rotation.transpose() * n;
  const double up = std::abs(local.z());
  if (const auto* box = std::get_if<Box>(&shape)) return 0.5 * box->size.dot(local.cwiseAbs());
  if (const auto* sphere = std::get_if<Sphere>(&shape)) return sphere->radius;
  if (const auto* c = std::get_if<Cylinder>(&shape))
    return up * c->length / 2 + c->radius * std::sqrt(std::max(0.0, 1.0 - up * up));
  const auto& capsule = std::get<Capsule>(shape);
  return up * capsule.length / 2 + capsule.radius;
}

// How far A must move along n until a plane normal to n parts the two.
double depth_along(const Shape& a, const Pose& pa, const Shape& b, const Pose& pb,
                   const Vector3& n) {
  return extent(a, pa, n) + extent(b, pb, n) + n.dot(pb.position - pa.position);
}

}  // namespace

TEST_CASE("distances that can be worked out by hand") {
  const auto d = [](const Shape& a, const Vector3& at, const Shape& b) {
    return distance(a, Pose::at(at), b, {}).distance;
  };
  CHECK(d(Sphere{0.1}, {0.5, 0, 0}, Sphere{0.2}) == Approx(0.2).margin(1e-12));
  CHECK(d(Box{{0.2, 0.2, 0.2}}, {0.5, 0, 0}, Box{{0.2, 0.2, 0.2}}) == Approx(0.3).margin(1e-12));
  CHECK(d(Box{{0.2, 0.2, 0.2}}, {0.5, 0.5, 0.5}, Box{{0.2, 0.2, 0.2}}) ==
        Approx(0.3 * std::sqrt(3.0)).margin(1e-9));
  CHECK(d(Cylinder{0.1, 1.0}, {0.5, 0, 0}, Cylinder{0.2, 0.3}) == Approx(0.2).margin(1e-9));
  CHECK(d(Cylinder{0.1, 0.4}, {0, 0, 0.5}, Box{{1, 1, 0.2}}) == Approx(0.2).margin(1e-12));
  CHECK(d(Capsule{0.05, 0.4}, {0.3, 0, 0}, Capsule{0.05, 0.4}) == Approx(0.2).margin(1e-12));
  CHECK(d(Sphere{0.1}, {0, 0, 0.25}, Sphere{0.2}) == Approx(-0.05).margin(1e-12));
  CHECK(d(Sphere{0.1}, {0, 0, 0.1}, Box{{1, 1, 0.1}}) == Approx(-0.05).margin(1e-9));
  CHECK(d(Box{{0.2, 0.2, 0.2}}, {0.15, 0.02, 0.01}, Box{{0.2, 0.2, 0.2}}) ==
        Approx(-0.05).margin(1e-9));
  CHECK(d(Sphere{0.1}, {0, 0, 0}, Sphere{0.2}) == Approx(-0.3).margin(1e-9));
  CHECK(d(Capsule{0.05, 0.4}, {0, 0, 0}, Capsule{0.05, 0.4}) == Approx(-0.1).margin(1e-9));
}

TEST_CASE("two capsules that cross like a plus sign are as deep as their radii") {
  const Pose lying{rotation_about(Vector3::UnitX(), std::numbers::pi / 2), {0.1, 0, 0}};
  const Pose along{rotation_about(Vector3::UnitY(), std::numbers::pi / 2), {0, 0, 0}};
  const Separation s = distance(Capsule{0.03, 0.5}, lying, Capsule{0.02, 0.5}, along);
  CHECK(s.distance == Approx(-0.05).margin(1e-9));
  CHECK(std::abs(s.normal.z()) == Approx(1.0));
  CHECK(std::abs(s.point_a.x() - 0.1) < 1e-9);
}

TEST_CASE("distance agrees with alternating projections, with points and normal to match") {
  RandomStream random(31);
  int compared = 0;
  for (int i = 0; i < 3000; ++i) {
    const Shape a = random_shape(random), b = random_shape(random);
    const Pose pa = random_pose(random, 0.7), pb = random_pose(random, 0.7);
    const Separation s = distance(a, pa, b, pb);
    if (s.distance < 1e-3) continue;
    ++compared;
    CHECK(s.distance == Approx(projected_distance(a, pa, b, pb)).margin(1e-6));
    CHECK(s.lower_bound <= s.distance);
    CHECK(s.distance - s.lower_bound < 1e-8);
    CHECK(((s.point_a - s.point_b) - s.distance * s.normal).norm() < 1e-8);
    CHECK((project(a, pa, s.point_a) - s.point_a).norm() < 1e-8);
    CHECK((project(b, pb, s.point_b) - s.point_b).norm() < 1e-8);
    CHECK(further_apart_than(s.distance - 1e-7, a, pa, b, pb));
    CHECK_FALSE(further_apart_than(s.distance + 1e-9, a, pa, b, pb));
    const Separation swapped = distance(b, pb, a, pa);
    CHECK(swapped.distance == Approx(s.distance).margin(1e-9));
  }
  CHECK(compared > 800);
}

TEST_CASE("the way out of an overlap frees the two, and no much shorter way is found") {
  RandomStream random(32);
  int compared = 0;
  for (int i = 0; i < 400; ++i) {
    const Shape a = random_shape(random), b = random_shape(random);
    const Pose pa = random_pose(random, 0.15), pb = random_pose(random, 0.15);
    const Separation s = distance(a, pa, b, pb);
    if (s.distance > -1e-3) continue;
    ++compared;
    CHECK_FALSE(further_apart_than(0.0, a, pa, b, pb));
    const Pose freed{pa.rotation, pa.position + (1e-6 - s.distance) * s.normal};
    CHECK(distance(a, freed, b, pb).distance > -1e-7);
    CHECK(depth_along(a, pa, b, pb, s.normal) == Approx(-s.distance).margin(1e-6));
    double least = 1e9;
    for (int k = 0; k < 4000; ++k) {
      const Vector3 way(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1));
      least = std::min(least, depth_along(a, pa, b, pb, way.normalized()));
    }
    CHECK(least > -s.distance - 1e-6);
  }
  CHECK(compared > 150);
}

TEST_CASE("overlap depths of boxes against the separating axis test") {
  // For two boxes the least overlap over the 15 classic axes is the depth (S. Gottschalk and
  // others, "OBBTree", 1996): another formulation, exact.
  RandomStream random(33);
  int compared = 0;
  for (int i = 0; i < 2000; ++i) {
    const Box a{{random.uniform(0.1, 0.4), random.uniform(0.1, 0.4), random.uniform(0.1, 0.4)}};
    const Box b{{random.uniform(0.1, 0.4), random.uniform(0.1, 0.4), random.uniform(0.1, 0.4)}};
    const Pose pa = random_pose(random, 0.2), pb = random_pose(random, 0.2);
    double least = 1e9;
    const auto try_axis = [&](const Vector3& axis) {
      if (axis.norm() < 1e-6) return;
      const Vector3 n = axis.normalized();
      const double ra = (pa.rotation.transpose() * n).cwiseAbs().dot(0.5 * a.size);
      const double rb = (pb.rotation.transpose() * n).cwiseAbs().dot(0.5 * b.size);
      least = std::min(least, ra + rb - std::abs(n.dot(pa.position - pb.position)));
    };
    for (Eigen::Index k = 0; k < 3; ++k) {
      try_axis(pa.rotation.col(k));
      try_axis(pb.rotation.col(k));
      for (Eigen::Index m = 0; m < 3; ++m) try_axis(pa.rotation.col(k).cross(pb.rotation.col(m)));
    }
    const double d = distance(a, pa, b, pb).distance;
    CHECK((least > 0.0) == (d < 0.0));
    if (least <= 1e-6) continue;
    ++compared;
    CHECK(-d == Approx(least).margin(1e-6));
  }
  CHECK(compared > 500);
}

TEST_CASE("boxes that are aligned, or nearly so, are no worse off than any others") {
  RandomStream random(34);
  for (int i = 0; i < 20000; ++i) {
    const auto size = [&] { return 0.01 * (1 + random.index(40)); };
    const Box a{{size(), size(), size()}}, b{{size(), size(), size()}};
    const auto near = [&](double most) {
      return 0.01 * std::round(100 * random.uniform(-most, most));
    };
    Pose pa = Pose::at({near(0.5), near(0.5), near(0.5)});
    const double tilt =
        std::array{0.0, 1e-15, 1e-12, 1e-9, 1e-7}[static_cast<std::size_t>(random.index(5))];
    pa.rotation = rotation_about(Vector3::Unit(random.index(3)),
                                 tilt + random.index(4) * std::numbers::pi / 2);
    const Pose world{rotation_from_rpy(random.uniform(-3, 3), 0.2, 0.5), {0.1, 0.2, 0.3}};
    // Between aligned boxes the distance is that of the gaps along the axes.
    const Vector3 ha = half_extent(a, pa.rotation), hb = 0.5 * b.size;
    const Vector3 gaps = pa.position.cwiseAbs() - ha - hb;
    const double expected = gaps.maxCoeff() > 0.0 ? gaps.cwiseMax(0.0).norm() : gaps.maxCoeff();
    const Pose frame = random.index(2) == 0 ? Pose{} : world;
    const double found = distance(a, frame * pa, b, frame).distance;
    REQUIRE(found == Approx(expected).margin(1e-6));
    if (expected > 1e-6) REQUIRE(further_apart_than(expected - 1e-6, a, frame * pa, b, frame));
  }
}

TEST_CASE("cylinders and capsules side by side, parallel and square to each other") {
  RandomStream random(35);
  for (int i = 0; i < 5000; ++i) {
    const double r1 = 0.01 * (1 + random.index(9)), r2 = 0.01 * (1 + random.index(9));
    const double apart = r1 + r2 + 0.01 * random.index(20);
    const Shape a = random.index(2) == 0 ? Shape(Cylinder{r1, 0.4}) : Shape(Capsule{r1, 0.4});
    const Shape b = random.index(2) == 0 ? Shape(Cylinder{r2, 0.4}) : Shape(Capsule{r2, 0.4});
    Pose pa = Pose::at({apart, 0, 0.01 * random.index(15)});
    if (random.index(2) == 0) pa.rotation = rotation_about(Vector3::UnitX(), std::numbers::pi / 2);
    REQUIRE(distance(a, pa, b, {}).distance == Approx(apart - r1 - r2).margin(1e-6));
  }
}

TEST_CASE("thin and grazing things: a micrometre is seen") {
  const Shape plate = Box{{0.0001, 1.0, 1.0}};
  const Shape ball = Sphere{0.05};
  for (const double gap : {1e-6, -1e-6}) {
    const double d = distance(ball, Pose::at({0.05 + 0.00005 + gap, 0.2, 0.1}), plate, {}).distance;
    CHECK(d == Approx(gap).margin(1e-9));
  }
  // A wire across an edge of a box.
  const Shape wire = Capsule{0.0002, 1.0};
  const Shape box = Box{{0.2, 0.2, 0.2}};
  const Pose lying{rotation_about(Vector3::UnitX(), std::numbers::pi / 2), {}};
  for (const double gap : {1e-6, 1e-4}) {
    Pose at = lying;
    at.position = Vector3(0.1, 0, 0.1) + (0.0002 + gap) * Vector3(1, 0, 1).normalized();
    CHECK(distance(wire, at, box, {}).distance == Approx(gap).margin(1e-9));
  }
}

TEST_CASE("distance takes nothing from the heap, overlapping or not") {
  const Shape a = Cylinder{0.1, 0.2}, b = Box{{0.2, 0.2, 0.2}};
  const long before = test::allocations();
  const double far = distance(a, Pose::at({1, 0, 0}), b, {}).distance;
  const double deep = distance(a, Pose::at({0.05, 0, 0}), b, {}).distance;
  const long after = test::allocations();
  CHECK(after == before);
  CHECK(far > 0.0);
  CHECK(deep < 0.0);
}
