#include "support/hunt.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/collision/sweep.hpp"
#include "elbowroom/model/cloud.hpp"
#include "elbowroom/model/hull.hpp"
#include "elbowroom/model/mesh.hpp"
#include "elbowroom/rehearse/replay_clearance.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"

namespace er::test {
namespace {

// Something small and thin whose face, edge or round side points along -z of its frame; the lowest
// point is the origin of the frame shifted by `down`.
struct Thin {
  Shape shape;
  double down;
};
Thin thin_thing(RandomStream& random) {
  const double size = random.uniform(0.005, 0.3);
  switch (random.index(8)) {
    case 0:
      return {Box{{size, size, 1e-4}}, 0.5e-4};  // a plate, flat on
    case 1:
      return {Box{{size, 1e-4, size}}, 0.5 * size};  // a plate, edge on
    case 2:
      return {Cylinder{5e-5, size}, 0.5 * size};  // a wire, end on
    case 3:
      return {Sphere{1e-4}, 1e-4};
    case 4:
      return {Cone{1e-4, 0.01, size}, 0.5 * size};  // a needle, point down
    case 5: {
      // A sheet of two triangles, flat on or with a corner down.
      const double lean = random.index(2) == 0 ? 0.0 : size;
      return {mesh_of({{0, 0, 0}, {size, 0, lean}, {size, size, lean}, {0, size, lean}},
                      {{0, 1, 2}, {0, 2, 3}}, true),
              0.0};
    }
    case 6:
      return {cloud_of({{0, 0, 0}, {size, 0, 0.01}, {0, size, 0.02}}, 1e-4), 1e-4};
    default: {
      // A wedge: its edge along y, down.
      const std::vector<Vector3> points{{-0.01, -size, 0.02}, {0.01, -size, 0.02}, {0, -size, 0},
                                        {-0.01, size, 0.02},  {0.01, size, 0.02},  {0, size, 0}};
      return {hull_of(points), 0.0};
    }
  }
}

}  // namespace

HuntResult hunt(std::uint64_t seed, int lines, int samples_each) {
  RandomStream random(seed);
  const Arm arm = clutter_arm();
  HuntResult out;
  while (out.lines < lines) {
    const Posture from = random.between(arm.limits().lower, arm.limits().upper);
    Posture step = random.between(arm.limits().lower, arm.limits().upper) - from;
    step *= random.uniform(0.02, 1.2) / step.norm();
    // At a random moment, beside a part of the arm, a thin thing.
    const auto poses = link_poses(arm, from + random.uniform() * step);
    const auto link =
        static_cast<std::size_t>(1 + random.index(static_cast<int>(poses.size()) - 1));
    const Part& part = arm.links()[link].parts.front();
    const Vector3 way = random_direction(random);
    const Thin thin = thin_thing(random);
    const Matrix3 turned = rotation_with_z(way) * rotation_from_rpy(0, 0, random.uniform(-3, 3));
    const double away = bounding_radius(part.shape) + random.uniform(0.0, 0.1) + thin.down;
    const Body thing{.name = "thin",
                     .at = {turned, poses[link] * part.at.position + away * way},
                     .parts = {{.shape = thin.shape}}};
    const Cell cell = Cell::build({.arms = {arm}, .fixtures = {thing}});
    ReplayClearance replay(cell, arm);
    const auto distance_at = [&](double share) {
      ++out.samples;
      return replay.nearest(from + share * step, 1.0).distance;
    };
    // The least distance on the line, as near as sampling gets to it.
    double best = 0.0;
    double least = std::numeric_limits<double>::infinity();
    for (int k = 0; k <= samples_each; ++k) {
      const double here = distance_at(static_cast<double>(k) / samples_each);
      if (here < least) {
        least = here;
        best = static_cast<double>(k) / samples_each;
      }
    }
    double low = std::max(0.0, best - 1.0 / samples_each);
    double high = std::min(1.0, best + 1.0 / samples_each);
    for (int k = 0; k < 40; ++k) {
      const double third = (high - low) / 3.0;
      const double left = distance_at(low + third);
      const double right = distance_at(high - third);
      least = std::min({least, left, right});
      (left < right ? high : low) = left < right ? high - third : low + third;
    }
    if (least < 2e-5) continue;
    // A little more than there is must not be proved; a little less nearly always is.
    const CellQuery query(cell, "");
    SweepMemory memory(query);
    const auto is_free = [&](double clearance) {
      return sweep_line(query, from, from + step, {.clearance = clearance}, memory).free;
    };
    ++out.lines;
    for (const double more : {2e-9, random.uniform(2e-9, 1e-6)})
      out.contradicted += is_free(least + more) ? 1 : 0;
    out.free += is_free(least - random.uniform(1e-6, 2e-5)) ? 1 : 0;
  }
  return out;
}

}  // namespace er::test
