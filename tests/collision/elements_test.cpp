// Distances of cones, half-spaces, meshes and clouds, against other ways to the same figures.
#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/collision/elements.hpp"
#include "elbowroom/collision/point_distance.hpp"
#include "elbowroom/model/hull.hpp"
#include "support/allocations.hpp"
#include "support/cells.hpp"
#include "support/meshes.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

Shape random_convex(RandomStream& random) {
  const auto size = [&] { return random.uniform(0.02, 0.3); };
  switch (random.index(5)) {
    case 0:
      return Box{{size(), size(), size()}};
    case 1:
      return Sphere{size()};
    case 2:
      return Cylinder{size(), size()};
    case 3:
      return Cone{size(), random.index(2) == 0 ? 0.0 : size(), size()};
    default:
      return Capsule{size(), size()};
  }
}

}  // namespace

TEST_CASE("a cone is a row of discs: its distance is that of the nearest") {
  RandomStream random(2);
  for (int i = 0; i < 400; ++i) {
    const Cone cone{random.uniform(0.02, 0.3),
                    random.index(3) == 0 ? 0.0 : random.uniform(0.0, 0.3),
                    random.uniform(0.02, 0.4)};
    const Pose at = random_pose(random, 0.5);
    // To a point, by the nearest point of its outline in the plane through both.
    const Vector3 point = random_pose(random, 1.0).position;
    const Vector3 local = at.inverse() * point;
    const double across = std::hypot(local.x(), local.y());
    double nearest = 1e9;
    for (int k = 0; k <= 4000; ++k) {
      const double up = (k / 4000.0 - 0.5) * cone.length;
      const double radius = cone.radius + (cone.top - cone.radius) * k / 4000.0;
      nearest = std::min(nearest, std::hypot(std::max(across - radius, 0.0), local.z() - up));
    }
    const double found = distance(Sphere{1e-6}, Pose::at(point), cone, at).distance + 1e-6;
    const double slack = 1e-4;
    if (nearest > slack) REQUIRE(found == Approx(nearest).margin(slack));
    REQUIRE(point_distance(cone, local) == Approx(found).margin(found > 0.0 ? 1e-7 : 5e-4));
  }
  // Turned over, and between its ends.
  const Part down = cone_between({0, 0, 0.3}, {0, 0, 0.1}, 0.05, 0.0);
  CHECK(distance(Sphere{0.01}, Pose::at({0, 0, 0}), down.shape, down.at).distance ==
        Approx(0.09).margin(1e-9));
  CHECK(distance(Sphere{0.01}, Pose::at({0.1, 0, 0.3}), down.shape, down.at).distance ==
        Approx(0.04).margin(1e-9));
  CHECK(volume(Cone{0.3, 0.3, 0.7}) == Approx(volume(Cylinder{0.3, 0.7})));
  CHECK(volume(Cone{0.3, 0.0, 0.7}) == Approx(volume(Cylinder{0.3, 0.7}) / 3.0));
}

TEST_CASE("over a half-space, a shape is as high as its lowest point") {
  RandomStream random(3);
  for (int i = 0; i < 1000; ++i) {
    const Shape shape = random_convex(random);
    const Pose at = random_pose(random, 1.0);
    const Pose plane = random_pose(random, 1.0);
    // A thick box whose upper side is the plane is the same for what is near it.
    const Separation found = distance(shape, at, HalfSpace{}, plane);
    const Pose box_at = plane * Pose::at({0, 0, -25.0});
    const Separation boxed = distance(shape, at, Box{{50, 50, 50}}, box_at);
    REQUIRE(found.distance == Approx(boxed.distance).margin(boxed.distance > 0.0 ? 1e-7 : 5e-4));
    REQUIRE((found.normal - plane.rotation.col(2)).norm() < 1e-12);
    REQUIRE((found.point_a - found.point_b - found.distance * found.normal).norm() < 1e-9);
    REQUIRE(further_apart_than(0.05, shape, at, HalfSpace{}, plane) == (found.distance > 0.05));
    REQUIRE(distance(HalfSpace{}, plane, shape, at).distance == found.distance);
  }
  CHECK(distance(HalfSpace{}, {}, HalfSpace{}, Pose::at({0, 0, 5})).lower_bound < 0.0);
}

TEST_CASE("a box of triangles is as far from things as the box is") {
  RandomStream random(4);
  for (int i = 0; i < 600; ++i) {
    const Vector3 size(random.uniform(0.05, 0.5), random.uniform(0.05, 0.5),
                       random.uniform(0.05, 0.5));
    const Mesh mesh = box_mesh(size, 1 + random.index(4));
    const Pose at = random_pose(random, 0.6);
    const Pose other_at = random_pose(random, 0.6);
    const Shape other =
        random.index(4) == 0 ? Shape(box_mesh({0.2, 0.1, 0.3}, 2)) : random_convex(random);
    const Shape other_solid =
        std::holds_alternative<Mesh>(other) ? Shape(Box{{0.2, 0.1, 0.3}}) : other;
    const Separation expected = distance(other_solid, other_at, Box{size}, at);
    const Separation found = distance(other, other_at, mesh, at);
    INFO(name_of(other) << " " << expected.distance);
    if (expected.distance > 0.0) {
      REQUIRE(found.distance == Approx(expected.distance).margin(1e-7));
      REQUIRE(found.lower_bound <= found.distance);
      REQUIRE(found.lower_bound > found.distance - 1e-6);
      REQUIRE((found.point_a - found.point_b - found.distance * found.normal).norm() < 1e-6);
    } else {
      REQUIRE(found.lower_bound <= 0.0);
      REQUIRE(found.distance < 1e-9);
    }
    const double swapped = distance(mesh, at, other, other_at).distance;
    // Of two that are both of many elements, any two that overlap are told.
    if (is_convex(other) || found.distance > 0.0)
      REQUIRE(swapped == Approx(found.distance).margin(1e-6));
    else
      REQUIRE(swapped < 1e-9);
    const double gap = random.uniform(0.0, 0.3);
    if (std::abs(gap - expected.distance) < 1e-6) continue;
    REQUIRE(further_apart_than(gap, other, other_at, mesh, at) == (expected.distance > gap));
    const Separation within = distance_within(gap, other, other_at, mesh, at, false);
    REQUIRE((within.lower_bound > gap) == (expected.distance > gap));
  }
}

TEST_CASE("what is wholly inside a solid mesh is in it, and comes out by its nearest side") {
  const Mesh block = box_mesh({0.6, 0.8, 1.0}, 3);
  const auto ball_at = [&](const Vector3& p) {
    return distance(Sphere{0.02}, Pose::at(p), block, {});
  };
  const Separation found = ball_at({0.2, 0.0, 0.1});
  CHECK(found.distance == Approx(-0.12).margin(1e-9));
  CHECK((found.normal - Vector3::UnitX()).norm() < 1e-9);
  CHECK(found.lower_bound < 0.0);
  CHECK(distance(block, {}, Sphere{0.02}, Pose::at({0.2, 0, 0.1})).distance == Approx(-0.12));
  CHECK_FALSE(further_apart_than(0.0, Sphere{0.02}, Pose::at({0.2, 0, 0.1}), block, {}));
  // A search that ends before it comes to the surface does not take it for free.
  CHECK(distance_within(0.001, Sphere{0.02}, {}, block, {}).distance < -0.3);
  CHECK(distance_within(0.001, Sphere{0.02}, {}, block, {}, false).lower_bound < 0.0);
  // Clouds of which a single point is inside; a mesh within a mesh.
  const Cloud one_in = cloud_of({{5, 0, 0}, {0, 0, 0}, {-5, 1, 0}}, 0.01);
  CHECK_FALSE(further_apart_than(0.0, one_in, {}, block, {}));
  CHECK(further_apart_than(0.0, cloud_of({{5, 0, 0}, {-5, 1, 0}}, 0.01), {}, block, {}));
  CHECK_FALSE(further_apart_than(0.0, box_mesh({0.1, 0.1, 0.1}), {}, block, {}));
  // A hollow one: in its cavity a ball is free, in its wall it is not.
  const Mesh bucket = bucket_mesh(0.2, 0.4, 0.04, 96);
  CHECK(distance(Sphere{0.01}, Pose::at({0, 0, 0.2}), bucket, {}).distance ==
        Approx(0.16 * std::cos(std::numbers::pi / 96) - 0.01).margin(1e-4));
  CHECK(distance(Sphere{0.01}, Pose::at({0.18, 0, 0.2}), bucket, {}).distance < 0.0);
  CHECK(distance(Sphere{0.01}, Pose::at({0, 0, 0.02}), bucket, {}).distance < 0.0);
  // A skin has no inside.
  const Mesh skin = mesh_of(block.data->corners, block.data->faces, true);
  CHECK(further_apart_than(0.1, Sphere{0.02}, {}, skin, {}));
}

TEST_CASE("a point is inside where the surface winds about it") {
  RandomStream random(6);
  const Mesh bucket = bucket_mesh(0.2, 0.4, 0.04, 24);
  const double flat = std::cos(std::numbers::pi / 24);
  int inside = 0;
  for (int i = 0; i < 20000; ++i) {
    const Vector3 p(random.uniform(-0.3, 0.3), random.uniform(-0.3, 0.3),
                    random.uniform(-0.1, 0.5));
    const double across = std::hypot(p.x(), p.y());
    // Within the circles in which its flats lie, it is known for certain.
    if ((across > 0.2 * flat && across < 0.2) || (across > 0.16 * flat && across < 0.16)) continue;
    const bool expected =
        across < 0.2 && p.z() > 0.0 && p.z() < 0.4 && !(across < 0.16 && p.z() > 0.04);
    REQUIRE(encloses(*bucket.data, p) == expected);
    inside += expected ? 1 : 0;
  }
  CHECK(inside > 1000);
  // Right below a corner and an edge, where rays along the axes would run through them.
  CHECK(encloses(*box_mesh({1, 1, 1}, 4).data, Vector3::Zero()));
  // All faces turned over, and two solids that overlap: still inside.
  Mesh turned = box_mesh({1, 1, 1});
  auto faces = turned.data->faces;
  for (auto& face : faces) std::swap(face[1], face[2]);
  CHECK(encloses(*mesh_of(turned.data->corners, faces).data, {0.1, 0.2, 0.3}));
  auto corners = turned.data->corners;
  faces = turned.data->faces;
  for (const Vector3& corner : turned.data->corners) corners.push_back(corner + Vector3(0.5, 0, 0));
  for (const auto& [a, b, c] : turned.data->faces) faces.push_back({a + 8, b + 8, c + 8});
  const Mesh two = mesh_of(corners, faces);
  CHECK(encloses(*two.data, {0.25, 0.1, 0.2}));
  CHECK(encloses(*two.data, {0.75, 0.1, 0.2}));
  CHECK_FALSE(encloses(*two.data, {1.1, 0.1, 0.2}));
}

TEST_CASE("clouds and meshes are as far as their nearest elements, found one by one") {
  RandomStream random(7);
  const Mesh bumpy = bumpy_mesh(0.2, 800);
  for (int i = 0; i < 60; ++i) {
    const Shape cloud = random_cloud(random, {0.2, 0.1, 0.3}, 2000, random.uniform(0.001, 0.01));
    const Pose at = random_pose(random, 0.6);
    const Pose other_at = random_pose(random, 0.6);
    const Shape other = random.index(2) == 0 ? Shape(bumpy) : random_convex(random);
    const Elements a(cloud, at);
    const Elements b(other, other_at);
    double nearest = 1e9;
    // All pairs of a cloud and a mesh would be millions: every eighth point is a bound.
    const int step = is_convex(other) ? 1 : 16;
    for (int p = 0; p < a.size(); p += step)
      for (int k = 0; k < b.size(); ++k) {
        const CoreShape element = b.core(k);
        const double centres = (a.core(p).centre - element.centre).norm();
        if (centres > nearest + 0.6) continue;
        nearest = std::min(
            nearest,
            distance_within(nearest > 0.0 ? nearest : 0.0, a.core(p), element, false).lower_bound);
      }
    if (nearest < 0.0) continue;
    const Separation found = distance(cloud, at, other, other_at);
    INFO(i);
    REQUIRE(found.distance <= nearest + 1e-9);
    if (step == 1) REQUIRE(found.distance == Approx(nearest).margin(1e-9));
  }
}

TEST_CASE("where elements overlap a shape, the deepest is told") {
  RandomStream random(9);
  const Shape bumpy = bumpy_mesh(0.2, 800);
  int overlaps = 0;
  for (int i = 0; i < 60; ++i) {
    const Shape many =
        random.index(2) == 0 ? bumpy : Shape(random_cloud(random, {0.2, 0.1, 0.2}, 300, 0.004));
    const Shape convex = random_convex(random);
    const Pose at = random_pose(random, 0.15);
    const Elements a(convex, at);
    const Elements b(many, {});
    double deepest = 0.0;
    for (int k = 0; k < b.size(); ++k)
      deepest = std::min(deepest, distance_within(0.0, a.core(0), b.core(k)).distance);
    if (deepest >= -1e-6) continue;
    ++overlaps;
    // How deep something is in a round shape is found to some tenths of a millimetre.
    REQUIRE(distance(convex, at, many, {}).distance == Approx(deepest).margin(5e-4));
    REQUIRE(distance(many, {}, convex, at).distance == Approx(deepest).margin(5e-4));
  }
  CHECK(overlaps > 20);
}

TEST_CASE("the nearest of half a million triangles costs little, and no memory") {
  const Mesh large = bumpy_mesh(0.5, 500000);
  CHECK(large.data->faces.size() > 450000);
  const Shape shape(large);
  const Shape ball = Capsule{0.03, 0.2};
  int looked = 0;
  const Elements a(ball, Pose::at({0.7, 0.1, 0.05}));
  const Elements b(shape, {});
  double best = 1e9;
  const auto visit = [&](int i, int k) {
    ++looked;
    const Separation here = distance_within(best, a.core(i), b.core(k));
    if (here.lower_bound <= best) best = std::min(best, here.distance);
    return true;
  };
  NearElements(
      a, b, [&] { return best; }, visit)
      .run();
  CHECK(looked < 400);
  CHECK(distance(ball, Pose::at({0.7, 0.1, 0.05}), shape, {}).distance ==
        Approx(best).margin(1e-9));
  const long before = allocations();
  distance(ball, Pose::at({0.7, 0.1, 0.05}), shape, {});
  further_apart_than(0.01, ball, Pose::at({0.7, 0.1, 0.05}), shape, {});
  CHECK(allocations() == before);
}

TEST_CASE("meshes and clouds that mean nothing are refused, with where") {
  const Mesh box = box_mesh({0.1, 0.1, 0.1});
  auto open = box.data->faces;
  open.pop_back();
  CHECK_THROWS_WITH(mesh_of(box.data->corners, open),
                    Contains("this mesh is open") && Contains("3 of its edges") && Contains(" mm"));
  CHECK_NOTHROW(mesh_of(box.data->corners, open, true));
  auto mixed = box.data->faces;
  std::swap(mixed[0][0], mixed[0][1]);
  CHECK_THROWS_WITH(mesh_of(box.data->corners, mixed), Contains("face both ways"));
  auto corners = box.data->corners;
  corners[3].y() = std::nan("");
  CHECK_THROWS_WITH(mesh_of(corners, box.data->faces),
                    Contains("corner 4 of a mesh is not finite"));
  auto beyond = box.data->faces;
  beyond[2][1] = 99;
  CHECK_THROWS_WITH(mesh_of(box.data->corners, beyond),
                    Contains("has corner 99, where there are 8"));
  CHECK_THROWS_WITH(mesh_of({}, {}), Contains("without triangles"));
  // Triangles with two corners are dropped, and counted.
  auto with_slivers = box.data->faces;
  with_slivers.push_back({1, 1, 2});
  CHECK(mesh_of(box.data->corners, with_slivers).data->dropped == 1);
  CHECK_THROWS_WITH(cloud_of({}, 0.01), Contains("without points"));
  CHECK_THROWS_WITH(cloud_of({{0, 0, std::nan("")}}, 0.01), Contains("point 1"));
  CHECK_THROWS_WITH(cloud_of({{0, 0, 0}}, 0.0), Contains("above zero"));
}

TEST_CASE("volume, mass and inertia of meshes are those of the solids they bound") {
  const Vector3 size(0.3, 0.2, 0.5);
  const Inertial box = inertial_of(Box{size}, 1000.0);
  const Inertial mesh = inertial_of(box_mesh(size, 3), 1000.0);
  CHECK(mesh.mass == Approx(box.mass));
  CHECK((mesh.inertia - box.inertia).norm() < 1e-9 * box.inertia.norm());
  // A cone against a stack of thin cylinders.
  const Cone cone{0.2, 0.05, 0.4};
  Inertial stack;
  for (int k = 0; k < 2000; ++k) {
    const double up = (k + 0.5) / 2000.0;
    const double radius = cone.radius + (cone.top - cone.radius) * up;
    stack = joined(stack, moved(inertial_of(Cylinder{radius, cone.length / 2000.0}, 1000.0),
                                Pose::at({0, 0, (up - 0.5) * cone.length})));
  }
  const Inertial exact = inertial_of(cone, 1000.0);
  CHECK(exact.mass == Approx(stack.mass).epsilon(1e-6));
  CHECK((exact.centre - stack.centre).norm() < 1e-7);
  CHECK((exact.inertia - stack.inertia).norm() < 1e-6 * exact.inertia.norm());
}
