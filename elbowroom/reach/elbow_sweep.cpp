#include "elbowroom/reach/elbow_sweep.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/reach/elbow_sweep.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/reach/lane_turns-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

HWY_INLINE void give(const ThreeTurnsOfHand& turns, int at, double (&angles)[3][kLanes],
                     double* valid) {
  store(angle_of(turns.first), angles[0] + at);
  store(angle_of(turns.second), angles[1] + at);
  store(angle_of(turns.third), angles[2] + at);
  store(choose(turns.valid, pack(1.0), pack(0.0)), valid + at);
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
    const AskedOfWrist of_shoulder = asked_of_wrist(shoulder, hand);
    const AskedOfWrist of_wrist = asked_of_wrist(wrist, wrist_hand);
    store(choose(of_shoulder.any, pack(1.0), pack(0.0)), out.shoulder_any + at);
    store(choose(of_wrist.any, pack(1.0), pack(0.0)), out.wrist_any + at);
    for (int side = 0; side < 2; ++side) {
      const PackMask second = pack(side) > pack(0.5);
      give(turns_of_hand(shoulder, of_shoulder, pointed, second), at, out.shoulder[side],
           out.shoulder_valid[side]);
      give(turns_of_hand(wrist, of_wrist, wrist_pointed, second), at, out.wrist[side],
           out.wrist_valid[side]);
    }
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(elbow_branches_in_lanes);
}  // namespace

void elbow_branches(const ElbowCircle& circle, const WristAxes& shoulder, const WristAxes& wrist,
                    const double* elbow_angles, ElbowBranches& out) {
  HWY_DYNAMIC_DISPATCH(elbow_branches_in_lanes)(circle, shoulder, wrist, elbow_angles, out);
}

}  // namespace er
#endif
