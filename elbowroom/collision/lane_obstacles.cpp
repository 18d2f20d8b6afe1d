#include "elbowroom/collision/lane_obstacles.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>

#include "elbowroom/base/float_rounding.hpp"
#include "elbowroom/collision/elements.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/collision/lane_obstacles.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/collision/obstacle_lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

void distances_in_lanes(const LaneObstacles& obstacles, std::span<const int> list,
                        const float (*points)[kLanes], float* out) {
  for (const int item : list) {
    const LaneObstacle& obstacle = obstacles.items[static_cast<std::size_t>(item)];
    for (int at = 0; at < kLanes; at += kFloatPackSize) {
      const FloatVector point = {load(points[0] + at), load(points[1] + at), load(points[2] + at)};
      store(distance_to(obstacles, obstacle, point), out + at);
    }
    out += kLanes;
  }
}

void approaches_in_lanes(const LaneObstacles& obstacles, std::span<const int> list,
                         const float (*points)[kLanes], const float (*velocities)[kLanes],
                         float* out) {
  const auto vector = [](const float(*from)[kLanes], int at) HWY_ATTR {
    return FloatVector{load(from[0] + at), load(from[1] + at), load(from[2] + at)};
  };
  for (const int item : list) {
    const LaneObstacle& obstacle = obstacles.items[static_cast<std::size_t>(item)];
    for (int at = 0; at < kLanes; at += kFloatPackSize) {
      const FloatVector velocity = vector(velocities, at);
      const FloatPack speed = pack(kRoundedUp) * hn::Sqrt(dot(velocity, velocity));
      store(approach_to(obstacles, obstacle, vector(points, at), velocity, speed), out + at);
    }
    out += kLanes;
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {

HWY_EXPORT(distances_in_lanes);
HWY_EXPORT(approaches_in_lanes);

// Of a mesh or a cloud so many elements are told apart; where there are more, about so many boxes
// hold several each.
constexpr int kMostElements = 2048;
constexpr int kMostBoxes = 1024;
// Triangles that are no higher than this come as boxes: their plane is not known well enough.
constexpr double kThinnest = 1e-6;  // m

void put(const Vector3& v, float* to) {
  for (int i = 0; i < 3; ++i) to[i] = static_cast<float>(v[i]);
}

class Collector {
 public:
  Collector(const Vector3& centre, double reach) : centre_(centre), reach_(reach) {}

  void add(const StandingPart& part, int standing) {
    if (is_convex(part.shape)) return add_convex(part.shape, part.pose, part.margin, standing);
    const Elements elements(part.shape, part.pose);
    const int together = elements.size() <= kMostElements ? 1 : elements.size() / kMostBoxes;
    add_branch(elements, 0, together, part.margin, standing);
  }
  void add_whole(const StandingPart& part, int standing) {
    if (is_convex(part.shape)) return add_convex(part.shape, part.pose, part.margin, standing);
    add_box(own_box(part.shape), part.pose, part.margin, standing);
  }

  LaneObstacles take() {
    // What is near each other goes side by side.
    const BoxTree tree(boxes_);
    std::vector<AlignedBox> boxes;
    std::vector<LaneObstacle> items;
    for (const int i : tree.order()) {
      boxes.push_back(boxes_[static_cast<std::size_t>(i)]);
      items.push_back(all_.items[static_cast<std::size_t>(i)]);
    }
    all_.items = std::move(items);
    all_.boxes = lane_boxes(boxes, centre_);
    return std::move(all_);
  }

 private:
  using Kind = LaneObstacle::Kind;

  // With the rounding of a point seen from something as large or as far away as this.
  [[nodiscard]] LaneObstacle made(const Pose& pose, double size, double margin,
                                  int standing) const {
    LaneObstacle out;
    out.standing = standing;
    for (int c = 0; c < 3; ++c) put(pose.rotation.col(c), out.rotation + 3 * c);
    put(pose.position - centre_, out.position);
    out.rounding = rounded_up_to_float(kFloatRounding * (size + reach_));
    out.margin = rounded_up_to_float(margin + kFloatRounding * (size + reach_));
    out.exact_below = std::numeric_limits<float>::max();
    return out;
  }

  void keep(LaneObstacle& out, const BoundingBall& ball, const Pose& pose, const AlignedBox& box,
            double margin) {
    put(pose * ball.middle - centre_, out.ball);
    out.ball_radius = rounded_up_to_float(ball.radius) + out.margin;
    boxes_.push_back({box.low.array() - margin, box.high.array() + margin});
    all_.items.push_back(out);
  }

  void add_plane(const Vector3& normal, double offset) {
    for (int i = 0; i < 3; ++i) all_.planes.push_back(static_cast<float>(normal[i]));
    all_.planes.push_back(static_cast<float>(offset));
  }
  [[nodiscard]] int plane_count() const { return static_cast<int>(all_.planes.size() / 4); }

  void add_convex(const Shape& shape, const Pose& pose, double margin, int standing) {
    if (!is_bounded(shape)) return add_half_space(shape, pose, margin, standing);
    const double size = (pose.position - centre_).norm() + bounding_radius(shape);
    LaneObstacle out = made(pose, size, margin, standing);
    const auto round = [&](Kind kind, double radius, double length) {
      out.kind = kind;
      out.radius = static_cast<float>(radius);
      out.half[2] = static_cast<float>(0.5 * length);
    };
    std::visit(Overloaded{[&](const Box& box) { put(0.5 * box.size, out.half); },
                          [&](const Sphere& ball) { round(Kind::capsule, ball.radius, 0.0); },
                          [&](const Cylinder& c) { round(Kind::cylinder, c.radius, c.length); },
                          [&](const Capsule& c) { round(Kind::capsule, c.radius, c.length); },
                          [&](const Cone& c) {
                            round(Kind::cone, c.radius, c.length);
                            out.upper_radius = static_cast<float>(c.top);
                          },
                          [&](const Hull& hull) {
                            out.kind = Kind::hull;
                            out.exact_below = 0.0F;
                            out.first_plane = plane_count();
                            for (const HullPlane& plane : hull.data->planes)
                              add_plane(plane.normal, plane.offset);
                            out.end_plane = plane_count();
                          },
                          [](const auto&) {}},
               shape);
    keep(out, bounding_ball(shape), pose, aligned_box(shape, pose), margin);
  }

  void add_half_space(const Shape& shape, const Pose& pose, double margin, int standing) {
    // Its frame may be far away; what counts is where its plane is nearest.
    const Vector3 normal = pose.rotation.col(2);
    const double height = normal.dot(pose.position - centre_);
    LaneObstacle out =
        made({pose.rotation, centre_ + height * normal}, std::abs(height), margin, standing);
    out.kind = Kind::half_space;
    keep(out, {Vector3::Zero(), std::numeric_limits<float>::max()}, {}, aligned_box(shape, pose),
         margin);
  }

  // What is in a box, as the box.
  void add_box(const AlignedBox& box, const Pose& pose, double margin, int standing) {
    const Pose at = pose * Pose::at(box.middle());
    const Shape shape = Box{2.0 * box.half()};
    LaneObstacle out =
        made(at, (at.position - centre_).norm() + box.half().norm(), margin, standing);
    put(box.half() * (1.0 + 1e-6), out.half);
    out.exact_below = -std::numeric_limits<float>::max();
    keep(out, {Vector3::Zero(), box.half().norm()}, at, aligned_box(shape, at), margin);
  }

  void add_branch(const Elements& elements, int index, int together, double margin, int standing) {
    const BoxTree::TreeNode& node = elements.tree()->node(index);
    if (together > 1 && (node.end - node.begin <= together || node.right < 0))
      return add_box(node.box, elements.pose(), margin, standing);
    if (node.right >= 0) {
      add_branch(elements, index + 1, together, margin, standing);
      add_branch(elements, node.right, together, margin, standing);
      return;
    }
    for (int i = node.begin; i < node.end; ++i) add_element(elements, i, margin, standing);
  }

  void add_element(const Elements& elements, int element, double margin, int standing) {
    const CoreShape core = elements.core(element);
    if (core.kind != CoreShape::Kind::triangle)
      add_convex(Sphere{core.radius}, Pose::at(core.centre), margin, standing);
    else if (is_thin(core.triangle))
      add_box(elements.box(element), elements.pose(), margin, standing);
    else
      add_triangle(core.triangle, margin + core.radius, standing);
  }

  static Vector3 edge_of(const Matrix3& corners, int k) {
    return corners.col((k + 1) % 3) - corners.col(k);
  }
  static bool is_thin(const Matrix3& corners) {
    const Vector3 lengths(edge_of(corners, 0).norm(), edge_of(corners, 1).norm(),
                          edge_of(corners, 2).norm());
    const double area = edge_of(corners, 0).cross(edge_of(corners, 1)).norm();
    return !(area > kThinnest * lengths.maxCoeff()) || !(lengths.minCoeff() > kThinnest);
  }

  void add_triangle(const Matrix3& corners, double margin, int standing) {
    const Vector3 first = corners.col(0) - centre_;
    const Vector3 normal = edge_of(corners, 0).cross(edge_of(corners, 1)).normalized();
    const AlignedBox box{corners.rowwise().minCoeff(), corners.rowwise().maxCoeff()};
    BoundingBall ball{box.middle(), 0.0};
    LaneObstacle out = made({}, first.norm() + 2.0 * box.half().norm(), margin, standing);
    out.kind = Kind::triangle;
    out.first_plane = plane_count();
    add_plane(normal, normal.dot(first));
    for (int k = 0; k < 3; ++k) {
      const Vector3 start = corners.col(k) - centre_;
      const Vector3 way = edge_of(corners, k);
      const Vector3 out_of = way.cross(normal).normalized();
      add_plane(out_of, out_of.dot(start));
      add_plane(start, 1.0 / way.squaredNorm());
      add_plane(way, 0.0);
      ball.radius = std::max(ball.radius, (corners.col(k) - ball.middle).norm());
    }
    out.end_plane = plane_count();
    keep(out, ball, {}, box, margin);
  }

  Vector3 centre_;
  double reach_;
  LaneObstacles all_;
  std::vector<AlignedBox> boxes_;
};

}  // namespace

LaneObstacles lane_obstacles(std::span<const StandingPart> parts, const Vector3& centre,
                             double reach) {
  Collector collector(centre, reach);
  for (std::size_t i = 0; i < parts.size(); ++i) collector.add(parts[i], static_cast<int>(i));
  return collector.take();
}

LaneObstacles whole_obstacles(std::span<const StandingPart> parts, std::span<const int> list,
                              const Vector3& centre, double reach) {
  Collector collector(centre, reach);
  for (const int i : list) collector.add_whole(parts[static_cast<std::size_t>(i)], i);
  return collector.take();
}

void lane_distances(const LaneObstacles& obstacles, std::span<const int> list,
                    const float (*points)[8], float* out) {
  HWY_DYNAMIC_DISPATCH(distances_in_lanes)(obstacles, list, points, out);
}

void lane_approaches(const LaneObstacles& obstacles, std::span<const int> list,
                     const float (*points)[8], const float (*velocities)[8], float* out) {
  HWY_DYNAMIC_DISPATCH(approaches_in_lanes)(obstacles, list, points, velocities, out);
}

}  // namespace er
#endif
