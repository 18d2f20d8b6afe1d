// many: what questions take as more and more stands about: primitives, triangles of a mesh, points
// of a cloud. One thread.
#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/quantile.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/collision/free_postures.hpp"
#include "line_times.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"
#include "support/meshes.hpp"

namespace {

using namespace er;

// Things of six kinds in a shell about the arm, smaller where there are more, so that they fill as
// much of it.
std::vector<Body> things(int count) {
  RandomStream random(60);
  const double scale = std::cbrt(60.0 / count);
  const auto size = [&] { return scale * random.uniform(0.03, 0.12); };
  std::vector<Body> out;
  while (static_cast<int>(out.size()) < count) {
    const Vector3 at(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(0.05, 1.3));
    const double away = (at - Vector3(0, 0, 0.34)).norm();
    if (away < 0.42 || away > 1.15 || std::hypot(at.x(), at.y()) < 0.25) continue;
    Shape shape = Box{{size(), size(), size()}};
    if (out.size() % 4 == 1) shape = Sphere{0.5 * size()};
    if (out.size() % 4 == 2) shape = Cylinder{0.4 * size(), 2.0 * size()};
    if (out.size() % 4 == 3) shape = Capsule{0.3 * size(), 2.0 * size()};
    const Matrix3 turned =
        rotation_from_rpy(random.uniform(-3, 3), random.uniform(-1.5, 1.5), random.uniform(-3, 3));
    out.push_back({.name = fmt::format("thing_{}", out.size()),
                   .at = {turned, at},
                   .parts = {{.shape = shape}}});
  }
  return out;
}

Body boulder(Shape shape) {
  return {
      .name = "boulder", .at = Pose::at({0.75, 0.1, 0.4}), .parts = {{.shape = std::move(shape)}}};
}

void measure(const std::string& what, double making_shape, std::vector<Body> bodies) {
  const Shape standing = bodies.front().parts.front().shape;
  const Pose at = bodies.front().at;
  const Cell cell = Cell::build({.arms = {test::clutter_arm()}, .fixtures = std::move(bodies)});
  auto began = bench::Clock::now();
  const CellQuery query(cell, "");
  static_cast<void>(query.covers());
  const double making = bench::milliseconds_since(began);

  // A forearm near the first thing that stands, most often clear of it, and one that is in it.
  RandomStream random(5);
  const Shape forearm = Capsule{0.05, 0.3};
  std::vector<Pose> poses;
  for (int i = 0; i < 1000; ++i)
    poses.push_back({rotation_with_z(test::random_direction(random)),
                     at.position + (i % 2 == 0 ? 0.55 : 0.3) * test::random_direction(random)});
  std::vector<double> clear;
  std::vector<double> deep;
  for (const Pose& pose : poses) {
    began = bench::Clock::now();
    const bool is_clear = distance(forearm, pose, standing, at).distance > 0.0;
    (is_clear ? clear : deep).push_back(1e6 * bench::milliseconds_since(began));
  }

  SweepMemory memory(query);
  const bench::Lines lines = bench::some_lines(query, 0.8, test::kClearance, 200, memory);
  PostureChecker checker(query);
  std::vector<Posture> postures;
  for (int i = 0; i < 2000; ++i)
    postures.push_back(random.between(query.arm().limits().lower, query.arm().limits().upper));
  const auto free = std::make_unique<bool[]>(postures.size());
  checker.check(postures, test::kClearance, {free.get(), postures.size()});
  began = bench::Clock::now();
  checker.check(postures, test::kClearance, {free.get(), postures.size()});
  const double posture = 1e6 * bench::milliseconds_since(began) / 2000.0;
  fmt::print(
      "{:<24} shape {:7.1f} ms, cell {:7.1f} ms; distance {:6.0f} ns, depth {:6.0f} "
      "ns, posture {:6.0f} ns, free "
      "line {:6.0f} ns, blocked {:6.0f} ns\n",
      what, making_shape, making, median(clear), median(deep), posture,
      bench::each_of(lines.free, test::kClearance, query, memory),
      bench::each_of(lines.blocked, test::kClearance, query, memory));
}

}  // namespace

int main() {
  for (const int count : {60, 600, 10000})
    measure(fmt::format("{} primitives", count), 0.0, things(count));
  for (const int count : {500, 5000, 50000, 500000}) {
    const auto began = bench::Clock::now();
    Shape shape = test::bumpy_mesh(0.25, count);
    const double making = bench::milliseconds_since(began);
    const auto size = std::get<Mesh>(shape).data->faces.size();
    measure(fmt::format("{} triangles", size), making, {boulder(std::move(shape))});
  }
  for (const int count : {1000, 10000, 100000, 1000000}) {
    // Points on a bumpy surface.
    std::vector<Vector3> points = test::bumpy_mesh(0.25, 2 * count).data->corners;
    const auto began = bench::Clock::now();
    Shape shape = cloud_of(std::move(points), 0.004);
    const double making = bench::milliseconds_since(began);
    const auto size = std::get<Cloud>(shape).data->points.size();
    measure(fmt::format("{} points", size), making, {boulder(std::move(shape))});
  }
  return 0;
}
