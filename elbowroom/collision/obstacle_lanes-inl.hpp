// How far points are from what stands, in vector lanes. See base/float_lanes-inl.hpp.

#if defined(ELBOWROOM_COLLISION_OBSTACLE_LANES_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef ELBOWROOM_COLLISION_OBSTACLE_LANES_INL_HPP
#undef ELBOWROOM_COLLISION_OBSTACLE_LANES_INL_HPP
#else
#define ELBOWROOM_COLLISION_OBSTACLE_LANES_INL_HPP
#endif

#include <limits>

#include "elbowroom/base/float_lanes-inl.hpp"
#include "elbowroom/collision/lane_obstacles.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

HWY_INLINE FloatPack over_plane(const float* plane, const FloatVector& point) {
  return pack(plane[0]) * point.x + pack(plane[1]) * point.y + pack(plane[2]) * point.z -
         pack(plane[3]);
}

// See LaneObstacle::first_plane. Over the triangle its plane is nearest, else one of its edges.
inline FloatPack distance_to_triangle(const float* plane, const FloatVector& point) {
  const FloatPack away = hn::Abs(over_plane(plane, point));
  FloatPack outside = pack(-1.0F);
  FloatPack nearest = pack(std::numeric_limits<float>::max());
  for (int edge = 0; edge < 3; ++edge) {
    const float* side = plane + 4 + 12 * edge;
    const float* start = side + 4;
    const float* way = side + 8;
    outside = largest(outside, over_plane(side, point));
    const FloatVector from = {point.x - pack(start[0]), point.y - pack(start[1]),
                              point.z - pack(start[2])};
    const FloatVector along = {pack(way[0]), pack(way[1]), pack(way[2])};
    const FloatPack share =
        largest(least(dot(from, along) * pack(start[3]), pack(1.0F)), pack(0.0F));
    const FloatVector off = {from.x - share * along.x, from.y - share * along.y,
                             from.z - share * along.z};
    nearest = least(nearest, dot(off, off));
  }
  return choose(outside <= pack(0.0F), away, hn::Sqrt(nearest));
}

// See to_cone in point_distance.cpp.
inline FloatPack distance_to_cone(const LaneObstacle& cone, FloatPack across, FloatPack up) {
  const FloatPack zero = pack(0.0F);
  const float length = 2.0F * cone.half[2];
  const float slope = cone.upper_radius - cone.radius;
  const FloatPack end = choose(up < zero, pack(cone.radius), pack(cone.upper_radius));
  const FloatPack past_end = largest(across - end, zero);
  const FloatPack beyond = hn::Abs(up) - pack(cone.half[2]);
  const FloatPack out = across - pack(cone.radius);
  const FloatPack above = up + pack(cone.half[2]);
  const FloatPack along =
      (out * pack(slope) + above * pack(length)) * pack(1.0F / (slope * slope + length * length));
  const FloatPack share = largest(least(along, pack(1.0F)), zero);
  const FloatPack off_out = out - share * pack(slope);
  const FloatPack off_up = above - share * pack(length);
  const FloatPack nearest =
      hn::Sqrt(least(past_end * past_end + beyond * beyond, off_out * off_out + off_up * off_up));
  const FloatMask is_inside =
      hn::And(beyond < zero, out * pack(length) - above * pack(slope) < zero);
  return choose(is_inside, zero - nearest, nearest);
}

// How far points are from an obstacle, or less.
inline FloatPack distance_to(const LaneObstacles& all, const LaneObstacle& obstacle,
                             const FloatVector& point) {
  using Kind = LaneObstacle::Kind;
  if (obstacle.kind == Kind::triangle)
    return distance_to_triangle(all.planes.data() + 4 * obstacle.first_plane, point) -
           pack(obstacle.margin);
  const float* r = obstacle.rotation;
  const FloatVector from = {point.x - pack(obstacle.position[0]),
                            point.y - pack(obstacle.position[1]),
                            point.z - pack(obstacle.position[2])};
  const auto along = [&](const float* axis) HWY_ATTR {
    return pack(axis[0]) * from.x + pack(axis[1]) * from.y + pack(axis[2]) * from.z;
  };
  const FloatVector local = {along(r), along(r + 3), along(r + 6)};
  const FloatPack zero = pack(0.0F);
  const FloatPack margin = pack(obstacle.margin);
  if (obstacle.kind == Kind::box) {
    const FloatVector out = {hn::Abs(local.x) - pack(obstacle.half[0]),
                             hn::Abs(local.y) - pack(obstacle.half[1]),
                             hn::Abs(local.z) - pack(obstacle.half[2])};
    const FloatVector gap = {largest(out.x, zero), largest(out.y, zero), largest(out.z, zero)};
    return hn::Sqrt(dot(gap, gap)) + least(largest(largest(out.x, out.y), out.z), zero) - margin;
  }
  if (obstacle.kind == Kind::hull) {
    // Far from an edge or a corner the planes say little, and a ball says more.
    const FloatVector from_ball = {point.x - pack(obstacle.ball[0]),
                                   point.y - pack(obstacle.ball[1]),
                                   point.z - pack(obstacle.ball[2])};
    FloatPack furthest = hn::Sqrt(dot(from_ball, from_ball)) - pack(obstacle.ball_radius) + margin;
    for (int p = obstacle.first_plane; p < obstacle.end_plane; ++p)
      furthest = largest(furthest, over_plane(all.planes.data() + 4 * p, local));
    return furthest - margin;
  }
  if (obstacle.kind == Kind::half_space) return local.z - margin;
  const FloatPack beyond = hn::Abs(local.z) - pack(obstacle.half[2]);
  const FloatPack across = local.x * local.x + local.y * local.y;
  if (obstacle.kind == Kind::capsule) {
    const FloatPack up = largest(beyond, zero);
    return hn::Sqrt(across + up * up) - pack(obstacle.radius) - margin;
  }
  if (obstacle.kind == Kind::cone)
    return distance_to_cone(obstacle, hn::Sqrt(across), local.z) - margin;
  const FloatPack side = hn::Sqrt(across) - pack(obstacle.radius);
  const FloatPack gap_side = largest(side, zero);
  const FloatPack gap_end = largest(beyond, zero);
  return hn::Sqrt(gap_side * gap_side + gap_end * gap_end) + least(largest(side, beyond), zero) -
         margin;
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
