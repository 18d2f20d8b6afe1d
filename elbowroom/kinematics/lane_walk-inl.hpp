// The walk along a chain in vector lanes: one posture a lane. See base/lanes-inl.hpp.

#if defined(ELBOWROOM_KINEMATICS_LANE_WALK_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef ELBOWROOM_KINEMATICS_LANE_WALK_INL_HPP
#undef ELBOWROOM_KINEMATICS_LANE_WALK_INL_HPP
#else
#define ELBOWROOM_KINEMATICS_LANE_WALK_INL_HPP
#endif

#include "elbowroom/base/lanes-inl.hpp"
#include "elbowroom/kinematics/lane_chain.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

struct PackPose {
  PackVector x;  // the columns of the rotation
  PackVector y;
  PackVector z;
  PackVector position;
};

struct LaneWalk {
  PackVector axis[LaneChain::kMostJoints];  // of each step, in the world
  PackVector point[LaneChain::kMostJoints];
  PackPose tip;
};

struct PackColumn {
  PackVector velocity;
  PackVector turning;
};

HWY_INLINE PackPose pack(const Pose& pose) {
  return {pack(Vector3(pose.rotation.col(0))), pack(Vector3(pose.rotation.col(1))),
          pack(Vector3(pose.rotation.col(2))), pack(pose.position)};
}

/// A frame turned about its own z, moved on within itself, tilted about its own x.
HWY_INLINE void turn_about_z(const SineCosine& turn, PackPose& frame) {
  const PackVector x = turn.cosine * frame.x + turn.sine * frame.y;
  frame.y = turn.cosine * frame.y - turn.sine * frame.x;
  frame.x = x;
}
// Most chains have right angles and axes that meet, so it pays to ask for what is zero: the same
// for all lanes.
HWY_INLINE void go_onward(const Vector3& onward, PackPose& frame) {
  if (onward[0] != 0.0) frame.position = frame.position + pack(onward[0]) * frame.x;
  if (onward[1] != 0.0) frame.position = frame.position + pack(onward[1]) * frame.y;
  if (onward[2] != 0.0) frame.position = frame.position + pack(onward[2]) * frame.z;
}
HWY_INLINE void tilt_about_x(double cosine, double sine, PackPose& frame) {
  if (sine == 0.0 && cosine == 1.0) return;
  const PackVector y = frame.y;
  if (cosine == 0.0) {
    frame.y = pack(sine) * frame.z;
    frame.z = pack(-sine) * y;
    return;
  }
  frame.y = pack(cosine) * y + pack(sine) * frame.z;
  frame.z = pack(cosine) * frame.z - pack(sine) * y;
}

HWY_INLINE void walk_lanes(const LaneChain& chain, const Pack* values, LaneWalk& out) {
  PackPose frame = pack(chain.start);
  for (int i = 0; i < chain.steps; ++i) {
    const LaneChain::Step& step = chain.step[static_cast<std::size_t>(i)];
    const Pack value = values[step.joint];
    out.axis[i] = frame.z;
    out.point[i] = frame.position;
    turn_about_z(sine_cosine(pack(step.turn_ratio) * value + pack(step.turn_offset)), frame);
    go_onward(step.onward, frame);
    if (step.slide_ratio != 0.0)
      frame.position = frame.position + (pack(step.slide_ratio) * value) * frame.z;
    tilt_about_x(step.tilt_cosine, step.tilt_sine, frame);
  }
  const auto seen = [&](const Vector3& v) HWY_ATTR {
    return pack(v[0]) * frame.x + pack(v[1]) * frame.y + pack(v[2]) * frame.z;
  };
  out.tip = {seen(chain.end.rotation.col(0)), seen(chain.end.rotation.col(1)),
             seen(chain.end.rotation.col(2)), frame.position + seen(chain.end.position)};
}

/// The turn that takes the tip to a rotation, as its axis times twice the sine, and twice the
/// cosine and 1.
struct TurnSums {
  PackVector sines;
  Pack cosines;
};
HWY_INLINE TurnSums turn_sums(const PackPose& tip, const Matrix3& wanted) {
  const PackVector x = pack(Vector3(wanted.col(0)));
  const PackVector y = pack(Vector3(wanted.col(1)));
  const PackVector z = pack(Vector3(wanted.col(2)));
  return {cross(tip.x, x) + cross(tip.y, y) + cross(tip.z, z),
          dot(tip.x, x) + dot(tip.y, y) + dot(tip.z, z)};
}

/// The same as its axis times the chord of its angle, 2 sin(angle / 2), and the chord's square:
/// next to the end that is the angle, and it takes no arc tangent. (Half a turn, to rounding, has
/// no vector.)
struct ChordLeft {
  PackVector vector;
  Pack square;
};
HWY_INLINE ChordLeft chord_left(const PackPose& tip, const Matrix3& wanted) {
  const TurnSums sums = turn_sums(tip, wanted);
  const Pack four_cosines = sums.cosines + pack(1.0);  // (2 cos(angle / 2))^2
  const Pack scale = pack(1.0) / largest(four_cosines, pack(1e-12));
  // Of more than 120 degrees the sines tell little, of half a turn nothing.
  const Pack square = choose(four_cosines > pack(1.0), scale * dot(sums.sines, sums.sines),
                             pack(4.0) - four_cosines);
  return {hn::Sqrt(scale) * sums.sines, square};
}

/// The columns of the geometric Jacobian at the tip, one for each joint.
HWY_INLINE void columns_of(const LaneChain& chain, const LaneWalk& walk, PackColumn* columns) {
  int begun = 0;  // joints are numbered as they come; what follows one is added to it
  for (int i = 0; i < chain.steps; ++i) {
    const LaneChain::Step& step = chain.step[static_cast<std::size_t>(i)];
    PackColumn own;
    if (step.turn_ratio != 0.0) {
      own.turning = step.turn_ratio == 1.0 ? walk.axis[i] : pack(step.turn_ratio) * walk.axis[i];
      own.velocity = cross(own.turning, walk.tip.position - walk.point[i]);
    } else {
      own.turning = pack(Vector3::Zero().eval());
      own.velocity = pack(step.slide_ratio) * walk.axis[i];
    }
    PackColumn& column = columns[step.joint];
    if (step.joint == begun) {
      column = own;
      ++begun;
    } else {
      column = {column.velocity + own.velocity, column.turning + own.turning};
    }
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
