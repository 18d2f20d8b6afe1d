#include "elbowroom/reach/elbow_sweep.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/reach/elbow_sweep.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/reach/lane_turns-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

HWY_INLINE void give(const ThreeAngles& angles, const AskedOfWrist& asked, PackMask second_side,
                     ThreeOfSide* out) {
  static_assert(sizeof(ThreeOfSide) == 4 * sizeof(double));
  const Pack found =
      choose(asked.any, pack(ThreeOfSide::kFirstIsFree), pack(ThreeOfSide::kPosture));
  const Pack kind = choose(is_posture(asked, second_side), found, pack(ThreeOfSide::kNone));
  hn::StoreInterleaved4(angles.first, angles.second, angles.third, kind, Tag(), out->angles);
}

HWY_INLINE void give_both_sides(const WristAxes& axes, const PackVector& hand,
                                const PackVector& pointed, int at,
                                ThreeOfSide (&out)[2][ElbowBranches::kAngles]) {
  const PackMask first = lanes_within(0, 0);  // no lane is on the second side
  const PackMask second = hn::Not(first);
  const AskedOfWrist asked = asked_of_wrist(axes, hand);
  const ThreeAngles one = angles_of(turns_of_hand(axes, asked, pointed, first));
  const ThreeAngles other = axes.at_right_angles
                                ? from_other_side(one)
                                : angles_of(turns_of_hand(axes, asked, pointed, second));
  give(one, asked, first, out[0] + at);
  give(other, asked, second, out[1] + at);
}

HWY_INLINE PackVector seen(const Matrix3& m, const PackVector& v) {
  return v.x * pack(Vector3(m.col(0))) + v.y * pack(Vector3(m.col(1))) +
         v.z * pack(Vector3(m.col(2)));
}

void elbow_branches_in_lanes(const ElbowCircle& circle, const WristAxes& shoulder,
                             const WristAxes& wrist, const double* elbow_angles,
                             ElbowBranches& out) {
  const PackVector line = pack(circle.line);
  for (int at = 0; at < kLanes; at += kPackSize) {
    const SineCosine both = sine_cosine(load(elbow_angles + at));
    const Turn turn{both.cosine, both.sine};
    const PackVector hand = turned(line, turn, pack(circle.shoulder_hand));
    const PackVector pointed = turned(line, turn, pack(circle.shoulder_pointed));
    const PackVector wrist_hand =
        seen(circle.to_forearm, turned(line, back(turn), pack(circle.wrist_hand)));
    const PackVector wrist_pointed =
        seen(circle.to_forearm, turned(line, back(turn), pack(circle.wrist_pointed)));
    give_both_sides(shoulder, hand, pointed, at, out.shoulder);
    give_both_sides(wrist, wrist_hand, wrist_pointed, at, out.wrist);
  }
}

// One of two, or of four, for each lane.
struct Mixed {
  PackMask is_wrist;
  PackMask is_second;  // circle

  [[nodiscard]] HWY_INLINE Pack of(double shoulder, double wrist) const {
    return choose(is_wrist, pack(wrist), pack(shoulder));
  }
  [[nodiscard]] HWY_INLINE PackVector of(const Vector3& shoulder, const Vector3& wrist) const {
    return {of(shoulder[0], wrist[0]), of(shoulder[1], wrist[1]), of(shoulder[2], wrist[2])};
  }
  template <class Get>
  [[nodiscard]] HWY_INLINE PackVector of(const ElbowCircle (&circles)[2], const Get& get) const {
    const PackVector first = get(circles[0]);
    const PackVector second = get(circles[1]);
    return {choose(is_second, second.x, first.x), choose(is_second, second.y, first.y),
            choose(is_second, second.z, first.z)};
  }
};

HWY_INLINE LaneWristAxes mixed_axes(const Mixed& mixed, const WristAxes& shoulder,
                                    const WristAxes& wrist) {
  return {mixed.of(shoulder.first, wrist.first),
          mixed.of(shoulder.second, wrist.second),
          mixed.of(shoulder.third, wrist.third),
          mixed.of(shoulder.normal, wrist.normal),
          mixed.of(shoulder.second_across, wrist.second_across),
          mixed.of(shoulder.cosine, wrist.cosine),
          mixed.of(shoulder.inverse_sine2, wrist.inverse_sine2),
          mixed.of(shoulder.second_by_third, wrist.second_by_third),
          mixed.of(shoulder.inverse_across, wrist.inverse_across)};
}

void elbow_sides_in_lanes(const ElbowCircle (&circles)[2], const WristAxes& shoulder,
                          const WristAxes& wrist, double elbow_angle, ElbowSides& out) {
  HWY_ALIGN static constexpr double kIsWrist[kLanes] = {0, 0, 1, 1, 0, 0, 1, 1};
  HWY_ALIGN static constexpr double kIsSecond[kLanes] = {0, 0, 0, 0, 1, 1, 1, 1};
  HWY_ALIGN static constexpr double kSide[kLanes] = {0, 1, 0, 1, 0, 1, 0, 1};
  const Pack half = pack(0.5);
  const SineCosine both = sine_cosine(pack(elbow_angle));
  const PackVector line = pack(circles[0].line);
  for (int at = 0; at < kLanes; at += kPackSize) {
    const Mixed mixed{load(kIsWrist + at) > half, load(kIsSecond + at) > half};
    const LaneWristAxes axes = mixed_axes(mixed, shoulder, wrist);
    // The wrist's are turned back, and then seen from the forearm.
    const Turn turn{both.cosine, negate_if(mixed.is_wrist, both.sine)};
    const auto column = [&](int i) HWY_ATTR {
      return mixed.of(circles, [&](const ElbowCircle& circle) HWY_ATTR {
        return mixed.of(Vector3(Matrix3::Identity().col(i)), Vector3(circle.to_forearm.col(i)));
      });
    };
    const PackVector columns[3] = {column(0), column(1), column(2)};
    const auto seen = [&](const PackVector& v) HWY_ATTR {
      return v.x * columns[0] + v.y * columns[1] + v.z * columns[2];
    };
    const PackVector hand =
        seen(turned(line, turn, mixed.of(circles, [&](const ElbowCircle& circle) HWY_ATTR {
          return mixed.of(circle.shoulder_hand, circle.wrist_hand);
        })));
    const PackVector pointed =
        seen(turned(line, turn, mixed.of(circles, [&](const ElbowCircle& circle) HWY_ATTR {
          return mixed.of(circle.shoulder_pointed, circle.wrist_pointed);
        })));
    const AskedOfWrist asked = asked_of_wrist(axes, hand);
    const PackMask second = load(kSide + at) > half;
    // As give_both_sides, to the bit.
    const PackMask mirrored =
        hn::And(second, mixed.of(shoulder.at_right_angles, wrist.at_right_angles) > half);
    const PackMask as_second = hn::AndNot(mirrored, second);
    const ThreeAngles angles = angles_of(turns_of_hand(axes, asked, pointed, as_second));
    const ThreeAngles other = from_other_side(angles);
    give(
        {choose(mirrored, other.first, angles.first), choose(mirrored, other.second, angles.second),
         choose(mirrored, other.third, angles.third)},
        asked, second, out.all + at);
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(elbow_branches_in_lanes);
HWY_EXPORT(elbow_sides_in_lanes);
}  // namespace

void elbow_branches(const ElbowCircle& circle, const WristAxes& shoulder, const WristAxes& wrist,
                    const double* elbow_angles, ElbowBranches& out) {
  HWY_DYNAMIC_DISPATCH(elbow_branches_in_lanes)(circle, shoulder, wrist, elbow_angles, out);
}

void elbow_sides(const ElbowCircle (&circles)[2], const WristAxes& shoulder, const WristAxes& wrist,
                 double elbow_angle, ElbowSides& out) {
  HWY_DYNAMIC_DISPATCH(elbow_sides_in_lanes)(circles, shoulder, wrist, elbow_angle, out);
}

}  // namespace er
#endif
