// Distance of disjoint cores: E. Gilbert, D. Johnson and S. Keerthi, "A fast procedure for
// computing the distance between complex objects in three-dimensional space", 1988. Overlapping
// cores go to penetration.hpp. Radii (spheres, capsules) are taken off at the end.
#include "elbowroom/collision/distance.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>

#include "elbowroom/collision/elements.hpp"
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
CoreDistance core_distance(const CoreShape& a, const CoreShape& b, double enough,
                           const DistanceHint& hint) {
  const auto support = [&](const Vector3& direction) {
    const Vector3 on_a = a.support(direction);
    const Vector3 on_b = b.support(-direction);
    return DifferencePoint{on_a - on_b, on_a, on_b};
  };
  CoreDistance result;
  const double close = std::max(kGap, hint.precision);
  Vector3 start = hint.normal.isZero(0.0) ? Vector3(b.centre - a.centre) : Vector3(-hint.normal);
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
    if (result.lower > enough || result.upper - result.lower < close) return result;
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

// Of a core and a half-space, seen from the latter's normal.
Separation over_plane(const CoreShape& core, const CoreShape& plane) {
  Separation result;
  if (core.kind == CoreShape::Kind::half_space) {
    result.distance = -std::numeric_limits<double>::infinity();
    result.lower_bound = result.distance;
    return result;
  }
  result.normal = plane.rotation.col(2);
  result.point_a = core.support(-result.normal) - core.radius * result.normal;
  result.distance = result.normal.dot(result.point_a - plane.centre);
  result.lower_bound = result.distance - kRounding;
  result.point_b = result.point_a - result.distance * result.normal;
  return result;
}

Separation seen_from_other(Separation s) {
  std::swap(s.point_a, s.point_b);
  s.normal = -s.normal;
  return s;
}

// How far what is wholly inside a solid has to go: out by the side where the surface is nearest.
Separation from_within(const Separation& to_surface, const Elements& inside) {
  Separation out = to_surface;
  const Vector3 way = -to_surface.normal;  // from what is inside to the surface
  const CoreShape core(inside.shape(), inside.pose());
  const Vector3 deepest = core.support(-way) - core.radius * way;
  out.normal = way;
  out.distance = -way.dot(to_surface.point_b - deepest);
  out.lower_bound = out.distance;
  out.point_a = deepest;
  return out;
}

// Among the elements that a convex shape overlaps, the one that it is deepest in. To leave all of a
// box, it has to go no further than to leave the box's middle, and half of the box: so branches
// that cannot be deeper than what is known are left out.
class Deepest {
 public:
  Deepest(const Elements& convex, const Elements& of, const Separation& first)
      : shape_(convex.shape()),
        core_(convex.core(0)),
        of_(of),
        of_in_shape_(convex.pose().inverse() * of.pose()),
        best_(first) {}
  Separation find() {
    look(0);
    return best_;
  }

 private:
  [[nodiscard]] double most_depth(const AlignedBox& box) const {
    return box.half().norm() - point_distance(shape_, of_in_shape_ * box.middle());
  }
  [[nodiscard]] bool may_be_deeper(const AlignedBox& box) const {
    return most_depth(box) > -best_.distance + kRounding;
  }
  void look(int index) {
    const BoxTree::TreeNode& node = of_.tree()->node(index);
    if (!may_be_deeper(node.box)) return;
    if (node.right >= 0) {
      const int left = index + 1;
      const bool left_first =
          most_depth(of_.tree()->node(left).box) >= most_depth(of_.tree()->node(node.right).box);
      look(left_first ? left : node.right);
      look(left_first ? node.right : left);
      return;
    }
    for (int i = node.begin; i < node.end; ++i) {
      if (!may_be_deeper(of_.box(i))) continue;
      const Separation here = distance_within(0.0, core_, of_.core(i), true);
      if (here.lower_bound <= 0.0 && here.distance < best_.distance) best_ = here;
    }
  }

  const Shape& shape_;
  CoreShape core_;
  const Elements& of_;
  Pose of_in_shape_;
  Separation best_;
};

// Of the two elements that are nearest to each other; where any overlap, of the deepest, or of
// just two where both shapes have many.
Separation of_nearest_elements(double gap, const Elements& a, const Elements& b,
                               bool measure_overlap) {
  constexpr double kFar = std::numeric_limits<double>::infinity();
  Separation best;
  best.distance = kFar;
  double lower = kFar;
  bool overlaps = false;
  const auto reach = [&] { return std::min(gap, best.distance); };
  const auto visit = [&](int i, int k) {
    const Separation here = distance_within(reach(), a.core(i), b.core(k), measure_overlap);
    if (here.lower_bound > reach()) return true;
    lower = std::min(lower, here.lower_bound - kRounding);
    if (here.distance < best.distance) best = here;
    overlaps = here.distance <= 0.0;
    return !overlaps;
  };
  NearElements(a, b, reach, visit).run();
  // What was left out is further away than the nearest, or than asked for.
  best.lower_bound = lower < kFar ? lower : std::nextafter(gap, kFar);
  if (!overlaps || !measure_overlap) return best;
  if (a.tree() == nullptr) best = Deepest(a, b, best).find();
  if (b.tree() == nullptr) best = seen_from_other(Deepest(b, a, seen_from_other(best)).find());
  best.lower_bound = best.distance;
  return best;
}

Separation of_elements(double gap, const Elements& a, const Elements& b, bool measure_overlap) {
  const Separation best = of_nearest_elements(gap, a, b, measure_overlap);
  if (best.lower_bound <= 0.0) return best;
  const bool b_is_inside = holds_some_of(a, b);
  if (!b_is_inside && !holds_some_of(b, a)) return best;
  if (!measure_overlap) {
    Separation inside;
    inside.lower_bound = -std::numeric_limits<double>::infinity();
    return inside;
  }
  // The search may have ended before it came to the surface.
  constexpr double kFar = std::numeric_limits<double>::infinity();
  return b_is_inside ? seen_from_other(from_within(of_nearest_elements(kFar, b, a, true), b))
                     : from_within(of_nearest_elements(kFar, a, b, true), a);
}

}  // namespace

Separation distance(const Shape& shape_a, const Pose& pose_a, const Shape& shape_b,
                    const Pose& pose_b) {
  return distance_within(std::numeric_limits<double>::infinity(), shape_a, pose_a, shape_b, pose_b);
}

Separation distance_within(double gap, const Shape& shape_a, const Pose& pose_a,
                           const Shape& shape_b, const Pose& pose_b, bool measure_overlap) {
  if (is_convex(shape_a) && is_convex(shape_b))
    return distance_within(gap, CoreShape(shape_a, pose_a), CoreShape(shape_b, pose_b),
                           measure_overlap);
  return of_elements(gap, {shape_a, pose_a}, {shape_b, pose_b}, measure_overlap);
}

Separation distance_within(double gap, const CoreShape& a, const CoreShape& b, bool measure_overlap,
                           const DistanceHint& hint) {
  if (b.kind == CoreShape::Kind::half_space) return over_plane(a, b);
  if (a.kind == CoreShape::Kind::half_space) return seen_from_other(over_plane(b, a));
  const double radii = a.radius + b.radius;
  const CoreDistance core = core_distance(a, b, gap + radii, hint);
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

bool further_apart_than(double gap, const CoreShape& a, const CoreShape& b) {
  if (a.kind == CoreShape::Kind::half_space || b.kind == CoreShape::Kind::half_space)
    return distance_within(gap, a, b).lower_bound > gap;
  const double wanted = gap + a.radius + b.radius;
  return core_distance(a, b, wanted, {}).lower > wanted;
}

bool further_apart_than(double gap, const Shape& shape_a, const Pose& pose_a, const Shape& shape_b,
                        const Pose& pose_b) {
  if (is_convex(shape_a) && is_convex(shape_b))
    return further_apart_than(gap, CoreShape(shape_a, pose_a), CoreShape(shape_b, pose_b));
  const Elements a(shape_a, pose_a);
  const Elements b(shape_b, pose_b);
  return are_apart(gap, a, b) && !is_one_in_the_other(a, b);
}

}  // namespace er
