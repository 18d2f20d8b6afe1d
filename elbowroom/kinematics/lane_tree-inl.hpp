// The joints of a whole arm in vector lanes: one posture a lane. See base/lanes-inl.hpp.

#if defined(ELBOWROOM_KINEMATICS_LANE_TREE_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef ELBOWROOM_KINEMATICS_LANE_TREE_INL_HPP
#undef ELBOWROOM_KINEMATICS_LANE_TREE_INL_HPP
#else
#define ELBOWROOM_KINEMATICS_LANE_TREE_INL_HPP
#endif

#include "elbowroom/kinematics/lane_tree.hpp"
#include "elbowroom/kinematics/lane_walk-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

/// The frame of a joint at a value of its entry, from those of the joints before it.
HWY_INLINE PackPose placed_joint(const LaneTree::Joint& joint, const PackPose* frames, Pack value) {
  PackPose frame = pack(joint.start);
  if (joint.before >= 0) {
    frame = frames[joint.before];
    // Most joints have one joint after them, and then there is nothing left to turn.
    if (joint.last_turn_sine != 0.0 || joint.last_turn_cosine != 1.0)
      turn_about_z({pack(joint.last_turn_sine), pack(joint.last_turn_cosine)}, frame);
    go_onward(joint.onward, frame);
    tilt_about_x(joint.tilt_cosine, joint.tilt_sine, frame);
  }
  if (joint.turn_ratio != 0.0)
    turn_about_z(sine_cosine(pack(joint.turn_ratio) * value + pack(joint.turn_offset)), frame);
  if (joint.slide_ratio != 0.0)
    frame.position = frame.position + (pack(joint.slide_ratio) * value) * frame.z;
  return frame;
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
