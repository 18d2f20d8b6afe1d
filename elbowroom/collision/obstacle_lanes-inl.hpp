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

// How far points are from an obstacle, or less.
inline FloatPack distance_to(const LaneObstacles& all, const LaneObstacle& obstacle,
                             const FloatVector& point) {
  using Kind = LaneObstacle::Kind;
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
    for (int p = obstacle.first_plane; p < obstacle.end_plane; ++p) {
      const float* plane = all.planes.data() + 4 * p;
      furthest = largest(furthest, pack(plane[0]) * local.x + pack(plane[1]) * local.y +
                                       pack(plane[2]) * local.z - pack(plane[3]));
    }
    return furthest - margin;
  }
  const FloatPack beyond = hn::Abs(local.z) - pack(obstacle.half[2]);
  const FloatPack across = local.x * local.x + local.y * local.y;
  if (obstacle.kind == Kind::capsule) {
    const FloatPack up = largest(beyond, zero);
    return hn::Sqrt(across + up * up) - pack(obstacle.radius) - margin;
  }
  const FloatPack side = hn::Sqrt(across) - pack(obstacle.radius);
  const FloatPack gap_side = largest(side, zero);
  const FloatPack gap_end = largest(beyond, zero);
  return hn::Sqrt(gap_side * gap_side + gap_end * gap_end) + least(largest(side, beyond), zero) -
         margin;
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
