#include "elbowroom/collision/lane_obstacles.hpp"

#include <cmath>
#include <limits>

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

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {

HWY_EXPORT(distances_in_lanes);

// How far from `centre` anything of a part is at most.
double out_to(const StandingPart& part, const Vector3& centre) {
  return (part.pose.position - centre).norm() + bounding_radius(part.shape);
}

void put(const Vector3& v, float* to) {
  for (int i = 0; i < 3; ++i) to[i] = static_cast<float>(v[i]);
}

void add_obstacle(LaneObstacles& all, const StandingPart& part, const Vector3& centre,
                  double reach) {
  using Kind = LaneObstacle::Kind;
  LaneObstacle out;
  for (int c = 0; c < 3; ++c) put(part.pose.rotation.col(c), out.rotation + 3 * c);
  put(part.pose.position - centre, out.position);
  // With the rounding of a point seen from something large or far away.
  const double size = out_to(part, centre) + reach;
  out.rounding = rounded_up_to_float(kFloatRounding * size);
  out.margin = rounded_up_to_float(part.margin + kFloatRounding * size);
  if (const auto* box = std::get_if<Box>(&part.shape)) {
    put(0.5 * box->size, out.half);
  } else if (const auto* sphere = std::get_if<Sphere>(&part.shape)) {
    out.kind = Kind::capsule;
    out.radius = static_cast<float>(sphere->radius);
  } else if (const auto* cylinder = std::get_if<Cylinder>(&part.shape)) {
    out.kind = Kind::cylinder;
    out.radius = static_cast<float>(cylinder->radius);
    out.half[2] = static_cast<float>(0.5 * cylinder->length);
  } else if (const auto* capsule = std::get_if<Capsule>(&part.shape)) {
    out.kind = Kind::capsule;
    out.radius = static_cast<float>(capsule->radius);
    out.half[2] = static_cast<float>(0.5 * capsule->length);
  } else {
    const HullData& hull = *std::get<Hull>(part.shape).data;
    out.kind = Kind::hull;
    out.first_plane = static_cast<int>(all.planes.size() / 4);
    for (const HullPlane& plane : hull.planes) {
      for (int i = 0; i < 3; ++i) all.planes.push_back(static_cast<float>(plane.normal[i]));
      all.planes.push_back(static_cast<float>(plane.offset));
    }
    out.end_plane = static_cast<int>(all.planes.size() / 4);
  }
  Vector3 middle = part.pose.position;
  double radius = bounding_radius(part.shape);
  if (const auto* hull = std::get_if<Hull>(&part.shape)) {
    middle = part.pose * hull->data->middle;
    radius = hull->data->radius;
  }
  put(middle - centre, out.ball);
  out.ball_radius = rounded_up_to_float(radius) + out.margin;
  all.items.push_back(out);
}

}  // namespace

LaneObstacles lane_obstacles(std::span<const StandingPart> parts, const Vector3& centre,
                             double reach) {
  LaneObstacles all;
  for (const StandingPart& part : parts) add_obstacle(all, part, centre, reach);
  return all;
}

void lane_distances(const LaneObstacles& obstacles, std::span<const int> list,
                    const float (*points)[8], float* out) {
  HWY_DYNAMIC_DISPATCH(distances_in_lanes)(obstacles, list, points, out);
}

float rounded_up_to_float(double value) {
  const auto near = static_cast<float>(value);
  return near >= value ? near : std::nextafter(near, std::numeric_limits<float>::infinity());
}

}  // namespace er
#endif
