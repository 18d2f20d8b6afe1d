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

HWY_INLINE FloatPack with_sign_of(FloatPack sign, FloatPack v) {
  return choose(sign < pack(0.0F), hn::Neg(v), v);
}
HWY_INLINE FloatVector choose(FloatMask mask, const FloatVector& yes, const FloatVector& no) {
  return {choose(mask, yes.x, no.x), choose(mask, yes.y, no.y), choose(mask, yes.z, no.z)};
}

/// How far points are from an obstacle, or less.
struct Away {
  FloatPack distance;
  /// A vector along which the distance grows, of any length (none inside): from what is nearest to
  /// the point, or square to the plane that the distance is counted from. In the obstacle's axes.
  FloatVector off;
};

// See LaneObstacle::first_plane. Over the triangle its plane is nearest, else one of its edges.
template <bool with_off>
inline Away away_from_triangle(const float* plane, const FloatVector& point) {
  const FloatPack height = over_plane(plane, point);
  FloatPack outside = pack(-1.0F);
  FloatPack nearest = pack(std::numeric_limits<float>::max());
  Away out;
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
    const FloatPack square = dot(off, off);
    if constexpr (with_off) out.off = edge == 0 ? off : choose(square < nearest, off, out.off);
    nearest = least(nearest, square);
  }
  const FloatMask is_over = outside <= pack(0.0F);
  out.distance = choose(is_over, hn::Abs(height), hn::Sqrt(nearest));
  if constexpr (with_off)
    out.off = choose(is_over, {pack(plane[0]), pack(plane[1]), pack(plane[2])}, out.off);
  return out;
}

// Of a cylinder or a cone, by how far a point is across its axis and up along it.
struct RoundAway {
  FloatPack distance;
  FloatPack off_across;
  FloatPack off_up;
};

// See to_cone in point_distance.cpp.
HWY_INLINE RoundAway away_from_cone(const LaneObstacle& cone, FloatPack across, FloatPack up) {
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
  const FloatPack from_end = past_end * past_end + beyond * beyond;
  const FloatPack from_side = off_out * off_out + off_up * off_up;
  const FloatPack nearest = hn::Sqrt(least(from_end, from_side));
  const FloatMask is_inside =
      hn::And(beyond < zero, out * pack(length) - above * pack(slope) < zero);
  const FloatMask is_end = from_end < from_side;
  return {choose(is_inside, zero - nearest, nearest), choose(is_end, past_end, off_out),
          choose(is_end, with_sign_of(up, beyond), off_up)};
}

HWY_INLINE RoundAway away_from_round(const LaneObstacle& obstacle, FloatPack across, FloatPack up) {
  using Kind = LaneObstacle::Kind;
  const FloatPack zero = pack(0.0F);
  if (obstacle.kind == Kind::cone) return away_from_cone(obstacle, across, up);
  const FloatPack beyond = hn::Abs(up) - pack(obstacle.half[2]);
  const FloatPack gap_end = largest(beyond, zero);
  const FloatPack side = across - pack(obstacle.radius);
  const FloatPack gap_side = largest(side, zero);
  return {hn::Sqrt(gap_side * gap_side + gap_end * gap_end) + least(largest(side, beyond), zero),
          gap_side, with_sign_of(up, gap_end)};
}

// Far from an edge or a corner the planes say little, and a ball says more.
template <bool with_off>
inline Away away_from_hull(const LaneObstacles& all, const LaneObstacle& hull,
                           const FloatVector& from_ball, const FloatVector& local) {
  const FloatPack size = hn::Sqrt(dot(from_ball, from_ball));
  Away out = {size - pack(hull.ball_radius) + pack(hull.margin), from_ball};
  for (int p = hull.first_plane; p < hull.end_plane; ++p) {
    const float* plane = all.planes.data() + 4 * p;
    const FloatPack over = over_plane(plane, local);
    if constexpr (with_off)
      out.off =
          choose(over > out.distance, {pack(plane[0]), pack(plane[1]), pack(plane[2])}, out.off);
    out.distance = largest(out.distance, over);
  }
  return out;
}

HWY_INLINE FloatVector in_axes_of(const LaneObstacle& obstacle, const FloatVector& v) {
  if (obstacle.kind == LaneObstacle::Kind::triangle) return v;
  const auto along = [&](const float* axis) HWY_ATTR {
    return pack(axis[0]) * v.x + pack(axis[1]) * v.y + pack(axis[2]) * v.z;
  };
  return {along(obstacle.rotation), along(obstacle.rotation + 3), along(obstacle.rotation + 6)};
}

template <bool with_off>
inline Away away_from(const LaneObstacles& all, const LaneObstacle& obstacle,
                      const FloatVector& point) {
  using Kind = LaneObstacle::Kind;
  const FloatPack margin = pack(obstacle.margin);
  const auto from = [&](const float* place) HWY_ATTR {
    return FloatVector{point.x - pack(place[0]), point.y - pack(place[1]),
                       point.z - pack(place[2])};
  };
  Away out;
  if (obstacle.kind == Kind::triangle) {
    out = away_from_triangle<with_off>(all.planes.data() + 4 * obstacle.first_plane, point);
    out.distance = out.distance - margin;
    return out;
  }
  const FloatVector local = in_axes_of(obstacle, from(obstacle.position));
  const FloatPack zero = pack(0.0F);
  if (obstacle.kind == Kind::box) {
    const FloatVector beyond = {hn::Abs(local.x) - pack(obstacle.half[0]),
                                hn::Abs(local.y) - pack(obstacle.half[1]),
                                hn::Abs(local.z) - pack(obstacle.half[2])};
    const FloatVector gap = {largest(beyond.x, zero), largest(beyond.y, zero),
                             largest(beyond.z, zero)};
    const FloatPack inside = least(largest(largest(beyond.x, beyond.y), beyond.z), zero);
    return {
        hn::Sqrt(dot(gap, gap)) + inside - margin,
        {with_sign_of(local.x, gap.x), with_sign_of(local.y, gap.y), with_sign_of(local.z, gap.z)}};
  }
  if (obstacle.kind == Kind::hull) {
    FloatVector from_ball = from(obstacle.ball);
    if constexpr (with_off) from_ball = in_axes_of(obstacle, from_ball);
    out = away_from_hull<with_off>(all, obstacle, from_ball, local);
    out.distance = out.distance - margin;
    return out;
  }
  if (obstacle.kind == Kind::half_space) return {local.z - margin, {zero, zero, pack(1.0F)}};
  const FloatPack across2 = local.x * local.x + local.y * local.y;
  if (obstacle.kind == Kind::capsule) {
    const FloatPack up = largest(hn::Abs(local.z) - pack(obstacle.half[2]), zero);
    return {hn::Sqrt(across2 + up * up) - pack(obstacle.radius) - margin,
            {local.x, local.y, with_sign_of(local.z, up)}};
  }
  const FloatPack across = hn::Sqrt(across2);
  const RoundAway round = away_from_round(obstacle, across, local.z);
  out.distance = round.distance - margin;
  if constexpr (with_off) {
    const FloatPack share = round.off_across / largest(across, pack(1e-12F));
    out.off = {share * local.x, share * local.y, round.off_up};
  }
  return out;
}

HWY_INLINE FloatPack distance_to(const LaneObstacles& all, const LaneObstacle& obstacle,
                                 const FloatVector& point) {
  return away_from<false>(all, obstacle, point).distance;
}

/// How fast that distance changes at most while points go straight on from where they are: it is
/// convex, so it never falls below its tangent. `speed` is that of the points, or more.
HWY_INLINE FloatPack approach_to(const LaneObstacles& all, const LaneObstacle& obstacle,
                                 const FloatVector& point, const FloatVector& velocity,
                                 FloatPack speed) {
  const FloatVector off = away_from<true>(all, obstacle, point).off;
  const FloatPack along = hn::Abs(dot(off, in_axes_of(obstacle, velocity)));
  // Rounding turns the vector by so much of its length.
  const FloatPack turned = pack(4.0F * obstacle.rounding) * speed;
  return least(speed, (along + turned) / hn::Sqrt(largest(dot(off, off), pack(1e-20F))));
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
