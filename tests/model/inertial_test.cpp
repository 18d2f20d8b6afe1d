#include "elbowroom/model/inertial.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/model/hull.hpp"
#include "support/cells.hpp"

using namespace er;

namespace {

bool holds(const Shape& shape, const Vector3& p) {
  if (const auto* box = std::get_if<Box>(&shape))
    return (p.cwiseAbs() - 0.5 * box->size).maxCoeff() <= 0.0;
  if (const auto* ball = std::get_if<Sphere>(&shape)) return p.norm() <= ball->radius;
  const double across = std::hypot(p.x(), p.y());
  if (const auto* c = std::get_if<Cylinder>(&shape))
    return across <= c->radius && std::abs(p.z()) <= 0.5 * c->length;
  const auto& c = std::get<Capsule>(shape);
  const double beyond = std::max(0.0, std::abs(p.z()) - 0.5 * c.length);
  return std::hypot(across, beyond) <= c.radius;
}

// Sums over a fine grid: knows nothing of closed forms.
Inertial by_grid(const Shape& shape, double density) {
  constexpr int kSteps = 80;
  const double size = bounding_radius(shape);
  const double step = 2.0 * size / kSteps;
  Inertial sum;
  for (int i = 0; i < kSteps; ++i)
    for (int j = 0; j < kSteps; ++j)
      for (int k = 0; k < kSteps; ++k) {
        const Vector3 p = Vector3(i + 0.5, j + 0.5, k + 0.5) * step - Vector3::Constant(size);
        if (!holds(shape, p)) continue;
        const double m = density * step * step * step;
        sum.mass += m;
        sum.inertia += m * (p.squaredNorm() * Matrix3::Identity() - p * p.transpose());
      }
  return sum;
}

Hull box_hull(const Vector3& size, const Vector3& at) {
  std::vector<Vector3> corners;
  for (const double x : {-0.5, 0.5})
    for (const double y : {-0.5, 0.5})
      for (const double z : {-0.5, 0.5})
        corners.push_back(at + Vector3(x, y, z).cwiseProduct(size));
  return hull_of(corners);
}

}  // namespace

TEST_CASE("moments of inertia of shapes agree with sums over a grid") {
  for (const Shape& shape : {Shape(Box{{0.1, 0.2, 0.3}}), Shape(Sphere{0.1}),
                             Shape(Cylinder{0.1, 0.3}), Shape(Capsule{0.1, 0.2})}) {
    INFO(name_of(shape));
    const Inertial closed = inertial_of(shape, 1000.0);
    const Inertial sum = by_grid(shape, 1000.0);
    CHECK(closed.mass == Approx(sum.mass).epsilon(0.02));
    CHECK((closed.inertia - sum.inertia).norm() < 0.03 * closed.inertia.norm());
    CHECK(fault_of(closed).empty());
  }
}

TEST_CASE("a hull has the volume, centre and inertia of the box it is, wherever it lies") {
  const Vector3 size(0.1, 0.2, 0.3);
  const Vector3 at(0.4, -0.1, 0.2);
  const Inertial hull = inertial_of(Shape(box_hull(size, at)), 500.0);
  const Inertial box = inertial_of(Shape(Box{size}), 500.0);
  CHECK(hull.mass == Approx(box.mass).epsilon(1e-12));
  CHECK((hull.centre - at).norm() < 1e-12);
  CHECK((hull.inertia - box.inertia).norm() < 1e-12);
}

TEST_CASE("hulls drop inner points, refuse flat ones and count as shapes in distances") {
  std::vector<Vector3> points = box_hull({0.2, 0.2, 0.2}, {0, 0, 0}).data->corners;
  points.emplace_back(0.01, 0.02, 0.03);
  const Hull hull = hull_of(points);
  CHECK(hull.data->corners.size() == 8);
  CHECK(hull.data->faces.size() == 12);
  const std::vector<Vector3> flat{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {1, 1, 0}, {0.5, 0.5, 0}};
  CHECK_THROWS_WITH(hull_of(flat), Catch::Contains("span no volume"));
  // The same distances as the box it is, apart and overlapping.
  RandomStream random(5);
  const Shape box = Box{{0.2, 0.2, 0.2}};
  for (int n = 0; n < 200; ++n) {
    const auto spin = [&] { return random.uniform(-3.0, 3.0); };
    const Pose pose{
        rotation_from_rpy(spin(), 0.3 * spin(), spin()),
        {random.uniform(-0.4, 0.4), random.uniform(-0.4, 0.4), random.uniform(-0.4, 0.4)}};
    const Shape other = n % 2 == 0 ? Shape(Cylinder{0.05, 0.2}) : Shape(Capsule{0.04, 0.1});
    CHECK(distance(Shape(hull), Pose{}, other, pose).distance ==
          Approx(distance(box, Pose{}, other, pose).distance).margin(1e-6));
  }
}

TEST_CASE("bodies are joined about their common centre") {
  // Two half-boxes side by side are one box.
  const Inertial half = inertial_of(Shape(Box{{0.1, 0.1, 0.1}}), 1000.0);
  const Inertial both =
      joined(moved(half, Pose::at({0.05, 0, 0})), moved(half, Pose::at({-0.05, 0, 0})));
  const Inertial whole = inertial_of(Shape(Box{{0.2, 0.1, 0.1}}), 1000.0);
  CHECK(both.mass == Approx(whole.mass));
  CHECK(both.centre.norm() < 1e-15);
  CHECK((both.inertia - whole.inertia).norm() < 1e-12);
  const Inertial scaled = inertial_of({{.shape = Box{{0.2, 0.1, 0.1}}}}, 4.0);
  CHECK((scaled.inertia - 2.0 * whole.inertia).norm() < 1e-12);
}

TEST_CASE("an inertia that no body can have is found out") {
  Inertial good = inertial_of(Shape(Box{{0.1, 0.2, 0.3}}), 1000.0);
  Inertial bad = good;
  bad.inertia(0, 0) *= 5.0;
  CHECK(fault_of(bad).find("above the sum of the other two") != std::string::npos);
  bad = good;
  bad.inertia(0, 1) = 0.01;
  CHECK(fault_of(bad).find("not symmetric") != std::string::npos);
  bad = good;
  bad.mass = -1.0;
  CHECK(fault_of(bad).find("below zero") != std::string::npos);
  bad = good;
  bad.mass = 0.0;
  CHECK(fault_of(bad).find("no mass") != std::string::npos);
}
