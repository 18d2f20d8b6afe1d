// Distance of disjoint cores: E. Gilbert, D. Johnson and S. Keerthi, "A fast procedure for
// computing the distance between complex objects in three-dimensional space", 1988. Overlapping
// cores go to penetration.hpp. Radii (spheres, capsules) are taken off at the end.
#include "elbowroom/collision/distance.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>

#include "elbowroom/collision/penetration.hpp"
#include "elbowroom/collision/simplex.hpp"
#include "elbowroom/model/core_shape.hpp"

namespace er {
namespace {

constexpr int kMostIterations = 128;
constexpr double kTouching = 1e-10;  // m; cores nearer than this count as overlapping
constexpr double kGap = 1e-11;       // m; upper minus lower bound at which the search ends
constexpr double kRounding = 1e-12;  // m; taken off a lower bound for the rounding of its own sum

struct CoreDistance {
  Simplex simplex;
  Vector3 nearest = Vector3::Zero();  // of the Minkowski difference
  double upper = 0.0;
  double lower = 0.0;  // proved by a separating plane
};

// Ends early once the cores are proved further apart than `enough`.
CoreDistance core_distance(const CoreShape& a, const CoreShape& b, double enough) {
  const auto support = [&](const Vector3& direction) {
    const Vector3 on_a = a.support(direction);
    const Vector3 on_b = b.support(-direction);
    return DifferencePoint{on_a - on_b, on_a, on_b};
  };
  CoreDistance result;
  Vector3 start = b.centre - a.centre;
  if (start.squaredNorm() < 1e-20) start = Vector3::UnitX();
  result.simplex.points[0] = support(start);
  result.simplex.weights[0] = 1.0;
  result.simplex.count = 1;
  result.nearest = result.simplex.points[0].v;
  result.upper = result.nearest.norm();
  for (int i = 0; i < kMostIterations && result.upper > kTouching; ++i) {
    const DifferencePoint next = support(-result.nearest);
    // The plane through `next` normal to `nearest` has all of A - B beyond it.
    result.lower = std::max(result.lower, result.nearest.dot(next.v) / result.upper - kRounding);
    if (result.lower > enough || result.upper - result.lower < kGap) return result;
    Simplex grown = result.simplex;
    grown.points[static_cast<std::size_t>(grown.count++)] = next;
    const Vector3 nearest = reduce_to_nearest(grown);
    const double length = nearest.norm();
    if (length >= result.upper) return result;  // rounding stops all progress: bounds stand
    result.simplex = grown;
    result.nearest = nearest;
    result.upper = length;
    if (grown.count == 4) break;  // the origin is inside
  }
  return result;
}

}  // namespace

Separation distance(const Shape& shape_a, const Pose& pose_a, const Shape& shape_b,
                    const Pose& pose_b) {
  return distance_within(std::numeric_limits<double>::infinity(), shape_a, pose_a, shape_b, pose_b);
}

Separation distance_within(double gap, const Shape& shape_a, const Pose& pose_a,
                           const Shape& shape_b, const Pose& pose_b, bool measure_overlap) {
  const CoreShape a(shape_a, pose_a);
  const CoreShape b(shape_b, pose_b);
  const double radii = a.radius + b.radius;
  const CoreDistance core = core_distance(a, b, gap + radii);
  Separation result;
  if (core.lower > gap + radii) {
    result.lower_bound = core.lower - radii;
    return result;
  }
  if (core.upper <= kTouching && !measure_overlap) {
    result.lower_bound = -std::numeric_limits<double>::infinity();
    return result;
  }
  for (std::size_t n = 0; n < static_cast<std::size_t>(core.simplex.count); ++n) {
    result.point_a += core.simplex.weights[n] * core.simplex.points[n].a;
    result.point_b += core.simplex.weights[n] * core.simplex.points[n].b;
  }
  if (core.upper <= kTouching) {
    const Penetration inside = penetration(a, b, result.point_a);
    result.distance = -inside.depth - radii;
    result.lower_bound = result.distance;
    result.normal = inside.normal;
    result.point_a = inside.point_a - a.radius * inside.normal;
    result.point_b = inside.point_b + b.radius * inside.normal;
    return result;
  }
  result.distance = core.upper - radii;
  result.lower_bound = core.lower - radii;
  result.normal = core.nearest / core.upper;
  result.point_a -= a.radius * result.normal;
  result.point_b += b.radius * result.normal;
  return result;
}

bool further_apart_than(double gap, const Shape& shape_a, const Pose& pose_a, const Shape& shape_b,
                        const Pose& pose_b) {
  const CoreShape a(shape_a, pose_a);
  const CoreShape b(shape_b, pose_b);
  const double wanted = gap + a.radius + b.radius;
  return core_distance(a, b, wanted).lower > wanted;
}

}  // namespace er
