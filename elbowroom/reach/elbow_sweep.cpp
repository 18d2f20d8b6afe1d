#include "elbowroom/reach/elbow_sweep.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/reach/elbow_sweep.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/reach/lane_turns-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

// The lanes of ElbowCircles and ElbowSides.
struct LaneOfElbow {
  PackMask is_wrist;
  PackMask is_second_value;
  PackMask is_second_side;

  HWY_INLINE explicit LaneOfElbow(int at) {
    HWY_ALIGN static constexpr double kWrist[kLanes] = {0, 0, 1, 1, 0, 0, 1, 1};
    HWY_ALIGN static constexpr double kSecond[kLanes] = {0, 0, 0, 0, 1, 1, 1, 1};
    HWY_ALIGN static constexpr double kSide[kLanes] = {0, 1, 0, 1, 0, 1, 0, 1};
    const Pack half = pack(0.5);
    is_wrist = load(kWrist + at) > half;
    is_second_value = load(kSecond + at) > half;
    is_second_side = load(kSide + at) > half;
  }

  [[nodiscard]] HWY_INLINE Pack of(double shoulder, double wrist) const {
    return choose(is_wrist, pack(wrist), pack(shoulder));
  }
  [[nodiscard]] HWY_INLINE PackVector of(const Vector3& shoulder, const Vector3& wrist) const {
    return {of(shoulder[0], wrist[0]), of(shoulder[1], wrist[1]), of(shoulder[2], wrist[2])};
  }
  [[nodiscard]] HWY_INLINE PackVector of(const Swing& shoulder, const Swing& wrist,
                                         const Turn& bend) const {
    return of(shoulder.fixed, wrist.fixed) + bend.cosine * of(shoulder.by_cosine, wrist.by_cosine) +
           bend.sine * of(shoulder.by_sine, wrist.by_sine);
  }
  [[nodiscard]] HWY_INLINE LaneWristAxes of(const WristAxes& shoulder,
                                            const WristAxes& wrist) const {
    return {of(shoulder.first_cosine, wrist.first_cosine),
            of(shoulder.first_sine, wrist.first_sine),
            of(shoulder.inverse_first_sine, wrist.inverse_first_sine),
            of(shoulder.third_cosine, wrist.third_cosine),
            of(shoulder.third_away, wrist.third_away),
            of(shoulder.third_aside, wrist.third_aside),
            of(shoulder.twice_second_zero, wrist.twice_second_zero)};
  }
};

// What a shoulder or wrist has to do, as a function of the elbow angle (see ElbowCircles).
struct AskedOnCircle {
  Pack fixed[3][3];
  Pack by_cosine[3][3];
  Pack by_sine[3][3];

  [[nodiscard]] HWY_INLINE WristAsked at(const Turn& elbow) const {
    WristAsked out;
    for (int i = 0; i < 3; ++i)
      for (int j = 0; j < 3; ++j)
        out.row[i][j] = fixed[i][j] + (elbow.cosine * by_cosine[i][j] + elbow.sine * by_sine[i][j]);
    return out;
  }
};

struct LaneCircles {
  AskedOnCircle asked;
  Turn bend;
  PackMask is_there;
  PackMask is_straight;
};

// The root and the division side by side rather than one after the other.
HWY_INLINE Pack inverse_root(Pack x) { return (pack(1.0) / x) * hn::Sqrt(x); }
HWY_INLINE PackVector as_direction(const PackVector& v) { return inverse_root(dot(v, v)) * v; }

HWY_INLINE LaneCircles circles_of(const ElbowGeometry& arm, const ElbowQuestion& question,
                                  const LaneOfElbow& lane) {
  constexpr double kOnLine = 1e-9;  // m
  LaneCircles out;
  const Pack squared_distance = pack(question.squared_distance);
  const OneOfTwoTurns bend = turn_to_distance(arm.bend, squared_distance, lane.is_second_value);
  out.bend = bend.turn;
  out.is_there = bend.valid;
  // The link between this joint and the elbow, seen along the line and towards the elbow.
  PackVector along =
      inverse_root(squared_distance) * lane.of(arm.shoulder.line, arm.wrist.line, bend.turn);
  PackVector elbow = lane.of(arm.shoulder.elbow, arm.wrist.elbow, bend.turn);
  if (question.squared_distance < kOnLine * kOnLine) along = as_direction(elbow);
  PackVector aside = elbow - dot(elbow, along) * along;
  out.is_straight = dot(aside, aside) < pack(kOnLine * kOnLine);
  if (!none(out.is_straight)) {
    const PackVector axis = pack(arm.bend_axis);
    const PackVector other = axis - dot(axis, along) * along;
    aside = {choose(out.is_straight, other.x, aside.x), choose(out.is_straight, other.y, aside.y),
             choose(out.is_straight, other.z, aside.z)};
  }
  aside = as_direction(aside);
  const PackVector rows[3] = {along, aside, cross(along, aside)};
  Pack end[3][3];
  Pack base[3][3];
  for (int j = 0; j < 3; ++j) {
    const PackVector end_column =
        lane.of(Vector3(arm.shoulder.axes.end.col(j)), Vector3(arm.wrist.axes.end.col(j)));
    const PackVector base_column =
        lane.of(Vector3(arm.shoulder.axes.base.col(j)), Vector3(question.hand.col(j)));
    for (int i = 0; i < 3; ++i) {
      end[i][j] = dot(rows[i], end_column);
      base[i][j] = dot(pack(Vector3(question.frame.col(i))), base_column);
    }
  }
  // base^T (turn about the line) end.
  for (int i = 0; i < 3; ++i)
    for (int j = 0; j < 3; ++j) {
      out.asked.fixed[i][j] = base[0][i] * end[0][j];
      out.asked.by_cosine[i][j] = base[1][i] * end[1][j] + base[2][i] * end[2][j];
      out.asked.by_sine[i][j] = base[2][i] * end[1][j] - base[1][i] * end[2][j];
    }
  return out;
}

HWY_INLINE Pack as_number(PackMask mask) { return choose(mask, pack(1.0), pack(0.0)); }

void elbow_circles_in_lanes(const ElbowGeometry& arm, const ElbowQuestion& question,
                            ElbowCircles& out) {
  for (int at = 0; at < kLanes; at += kPackSize) {
    const LaneCircles circles = circles_of(arm, question, LaneOfElbow(at));
    for (int i = 0; i < 3; ++i)
      for (int j = 0; j < 3; ++j) {
        store(circles.asked.fixed[i][j], out.fixed[i][j] + at);
        store(circles.asked.by_cosine[i][j], out.by_cosine[i][j] + at);
        store(circles.asked.by_sine[i][j], out.by_sine[i][j] + at);
      }
    store(angle_of(circles.bend), out.elbow_joint + at);
    store(as_number(circles.is_there), out.is_there + at);
    store(as_number(circles.is_straight), out.is_straight + at);
  }
}

HWY_INLINE Pack kind_of(const HandOfWrist& hand, PackMask second_side) {
  const Pack found = choose(hand.any, pack(ThreeOfSide::kOneIsFree), pack(ThreeOfSide::kPosture));
  return choose(is_posture(hand, second_side), found, pack(ThreeOfSide::kNone));
}

// The wrist's last axis is its first.
HWY_INLINE void give(const ThreeAngles& angles, PackMask is_wrist, Pack kind, ThreeOfSide* out) {
  static_assert(sizeof(ThreeOfSide) == 4 * sizeof(double));
  hn::StoreInterleaved4(choose(is_wrist, angles.third, angles.first), angles.second,
                        choose(is_wrist, angles.first, angles.third), kind, Tag(), out->angles);
}

void elbow_sides_in_lanes(const ElbowGeometry& arm, const ElbowQuestion& question,
                          double elbow_angle, ElbowSides& out) {
  const SineCosine both = sine_cosine(pack(elbow_angle));
  const Turn elbow{both.cosine, both.sine};
  const Pack half = pack(0.5);
  for (int at = 0; at < kLanes; at += kPackSize) {
    const LaneOfElbow lane(at);
    const LaneCircles circles = circles_of(arm, question, lane);
    const LaneWristAxes axes = lane.of(arm.shoulder.axes, arm.wrist.axes);
    const WristAsked asked = circles.asked.at(elbow);
    const HandOfWrist hand = hand_of_wrist<false>(axes, asked);
    // As give_both_sides, to the bit.
    const PackMask mirrored =
        hn::And(lane.is_second_side,
                lane.of(arm.shoulder.axes.at_right_angles, arm.wrist.axes.at_right_angles) > half);
    const PackMask as_second = hn::AndNot(mirrored, lane.is_second_side);
    const ThreeAngles one = angles_of_wrist<false>(axes, asked, hand, as_second);
    const ThreeAngles other = from_other_side(one, axes.twice_second_zero);
    const Pack kind =
        choose(circles.is_there, kind_of(hand, lane.is_second_side), pack(ThreeOfSide::kNone));
    give({choose(mirrored, other.first, one.first), choose(mirrored, other.second, one.second),
          choose(mirrored, other.third, one.third)},
         lane.is_wrist, kind, out.all + at);
    store(angle_of(circles.bend), out.elbow_joint + at);
    store(as_number(circles.is_straight), out.is_straight + at);
  }
}

HWY_INLINE AskedOnCircle spread(const ElbowCircles& circles, int lane) {
  AskedOnCircle out;
  for (int i = 0; i < 3; ++i)
    for (int j = 0; j < 3; ++j) {
      out.fixed[i][j] = pack(circles.fixed[i][j][lane]);
      out.by_cosine[i][j] = pack(circles.by_cosine[i][j][lane]);
      out.by_sine[i][j] = pack(circles.by_sine[i][j][lane]);
    }
  return out;
}

template <bool kIsWrist, bool kRightAngles>
HWY_INLINE void give_both_sides(const WristAxes& axes, const WristAsked& asked, int at,
                                ThreeOfSide (&out)[2][ElbowEight::kAngles]) {
  const PackMask first = lanes_within(0, 0);  // no lane is on the second side
  const PackMask second = hn::Not(first);
  const PackMask is_wrist = kIsWrist ? second : first;
  const HandOfWrist hand = hand_of_wrist<kRightAngles>(axes, asked);
  const ThreeAngles one = angles_of_wrist<kRightAngles>(axes, asked, hand, first);
  const ThreeAngles other = kRightAngles ? from_other_side(one, pack(axes.twice_second_zero))
                                         : angles_of_wrist<kRightAngles>(axes, asked, hand, second);
  give(one, is_wrist, kind_of(hand, first), out[0] + at);
  give(other, is_wrist, kind_of(hand, second), out[1] + at);
}

template <bool kIsWrist>
HWY_INLINE void give_both_sides(const WristAxes& axes, const ElbowCircles& circles, int value,
                                const Turn& elbow, int at,
                                ThreeOfSide (&out)[2][ElbowEight::kAngles]) {
  const WristAsked asked = spread(circles, ElbowCircles::at(value, kIsWrist, 0)).at(elbow);
  if (axes.at_right_angles) {
    give_both_sides<kIsWrist, true>(axes, asked, at, out);
  } else {
    give_both_sides<kIsWrist, false>(axes, asked, at, out);
  }
}

void elbow_eight_in_lanes(const ElbowGeometry& arm, const ElbowCircles& circles,
                          const double* elbow_angles, ElbowEight& out) {
  for (int at = 0; at < kLanes; at += kPackSize) {
    const SineCosine both = sine_cosine(load(elbow_angles + at));
    const Turn elbow{both.cosine, both.sine};
    for (int value = 0; value < 2; ++value) {
      give_both_sides<false>(arm.shoulder.axes, circles, value, elbow, at, out.shoulder[value]);
      give_both_sides<true>(arm.wrist.axes, circles, value, elbow, at, out.wrist[value]);
    }
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(elbow_circles_in_lanes);
HWY_EXPORT(elbow_sides_in_lanes);
HWY_EXPORT(elbow_eight_in_lanes);
}  // namespace

void elbow_circles(const ElbowGeometry& arm, const ElbowQuestion& question, ElbowCircles& out) {
  HWY_DYNAMIC_DISPATCH(elbow_circles_in_lanes)(arm, question, out);
}

void elbow_sides(const ElbowGeometry& arm, const ElbowQuestion& question, double elbow_angle,
                 ElbowSides& out) {
  HWY_DYNAMIC_DISPATCH(elbow_sides_in_lanes)(arm, question, elbow_angle, out);
}

void elbow_eight(const ElbowGeometry& arm, const ElbowCircles& circles, const double* elbow_angles,
                 ElbowEight& out) {
  HWY_DYNAMIC_DISPATCH(elbow_eight_in_lanes)(arm, circles, elbow_angles, out);
}

}  // namespace er
#endif
