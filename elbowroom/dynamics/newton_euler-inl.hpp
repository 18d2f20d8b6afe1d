// The recursion of Newton and Euler over an arm's moving bodies, each in its own frame, so that
// going from one to the next is a tilt about x and a turn about z. For one posture (N = double) or
// for several in vector lanes (N = Pack). See base/lanes-inl.hpp.
// J. Luh, M. Walker and R. Paul, "On-line computational scheme for mechanical manipulators", 1980.

#if defined(ELBOWROOM_DYNAMICS_NEWTON_EULER_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef ELBOWROOM_DYNAMICS_NEWTON_EULER_INL_HPP
#undef ELBOWROOM_DYNAMICS_NEWTON_EULER_INL_HPP
#else
#define ELBOWROOM_DYNAMICS_NEWTON_EULER_INL_HPP
#endif

#include "elbowroom/base/lanes-inl.hpp"
#include "elbowroom/dynamics/moving_bodies.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

template <class N>
N number(double value);
template <>
HWY_INLINE double number<double>(double value) {
  return value;
}
template <>
HWY_INLINE Pack number<Pack>(double value) {
  return pack(value);
}

template <class N>
LaneVector<N> numbers(const Vector3& v) {
  return {number<N>(v[0]), number<N>(v[1]), number<N>(v[2])};
}

/// How a joint stands: its turn about z from where the tilt about x has led.
template <class N>
struct JointTurn {
  N sine;
  N cosine;
};

/// How a body moves, and what that takes, in its own frame.
template <class N>
struct BodyState {
  JointTurn<N> turn;
  N slide;                     // m along z
  LaneVector<N> turning;       // rad/s
  LaneVector<N> turning_rate;  // rad/s^2
  LaneVector<N> acceleration;  // m/s^2, of the origin, with gravity as an upward one
  LaneVector<N> force;         // N
  LaneVector<N> moment;        // N m about the origin
};

/// Two coordinates in axes that are turned by an angle: x and y about z, y and z about x;
/// exchanged, it leads back.
template <class N>
HWY_INLINE void into_turned(const N& sine, const N& cosine, N& a, N& b) {
  const N first = cosine * a + sine * b;
  b = cosine * b - sine * a;
  a = first;
}

/// What of a motion there is: held still nothing turns, and from rest nothing turns yet.
enum class MotionPart { held, from_rest, all };

constexpr bool turns(MotionPart part) { return part == MotionPart::all; }
constexpr bool begins_to_turn(MotionPart part) { return part != MotionPart::held; }

/// How a body moves, in axes that are turned by the frame's last turn, tilt or joint.
template <MotionPart kPart, class N>
HWY_INLINE void motion_into_turned(const N& sine, const N& cosine, BodyState<N>& body) {
  if constexpr (turns(kPart)) into_turned(sine, cosine, body.turning.x, body.turning.y);
  if constexpr (begins_to_turn(kPart))
    into_turned(sine, cosine, body.turning_rate.x, body.turning_rate.y);
  into_turned(sine, cosine, body.acceleration.x, body.acceleration.y);
}
template <MotionPart kPart, class N>
HWY_INLINE void motion_into_tilted(const N& sine, const N& cosine, BodyState<N>& body) {
  if constexpr (turns(kPart)) into_turned(sine, cosine, body.turning.y, body.turning.z);
  if constexpr (begins_to_turn(kPart))
    into_turned(sine, cosine, body.turning_rate.y, body.turning_rate.z);
  into_turned(sine, cosine, body.acceleration.y, body.acceleration.z);
}

HWY_INLINE bool turns_last(const LaneTree::Joint& joint) {
  return joint.last_turn_sine != 0.0 || joint.last_turn_cosine != 1.0;
}

/// The acceleration of a point fixed in a body, `to` from its origin.
template <MotionPart kPart, class N>
HWY_INLINE LaneVector<N> carried_to(const BodyState<N>& body, const LaneVector<N>& to) {
  LaneVector<N> out = body.acceleration;
  if constexpr (begins_to_turn(kPart)) out = out + cross(body.turning_rate, to);
  if constexpr (turns(kPart)) out = out + cross(body.turning, cross(body.turning, to));
  return out;
}

/// A joint's frame as the body before it carries it, before the joint itself moves.
template <MotionPart kPart, class N>
HWY_INLINE void carry(const LaneTree::Joint& joint, double gravity, const BodyState<N>* states,
                      BodyState<N>& out) {
  if (joint.before < 0) {
    const LaneVector<N> zero = numbers<N>(Vector3::Zero());
    out.turning = zero;
    out.turning_rate = zero;
    out.acceleration = numbers<N>(gravity * joint.start.rotation.row(2).transpose());
    return;
  }
  const BodyState<N>& before = states[joint.before];
  if constexpr (turns(kPart)) out.turning = before.turning;
  if constexpr (begins_to_turn(kPart)) out.turning_rate = before.turning_rate;
  out.acceleration = before.acceleration;
  if (turns_last(joint))
    motion_into_turned<kPart>(number<N>(joint.last_turn_sine), number<N>(joint.last_turn_cosine),
                              out);
  out.acceleration = carried_to<kPart>(out, numbers<N>(joint.onward));
  motion_into_tilted<kPart>(number<N>(joint.tilt_sine), number<N>(joint.tilt_cosine), out);
}

/// And the joint's own part, at a rate and a growth of that rate.
template <MotionPart kPart, class N>
HWY_INLINE void move_joint(bool slides, const N& rate, const N& growth, BodyState<N>& body) {
  motion_into_turned<kPart>(body.turn.sine, body.turn.cosine, body);
  if (!slides) {
    if constexpr (turns(kPart)) {
      body.turning_rate.x = body.turning_rate.x + body.turning.y * rate;
      body.turning_rate.y = body.turning_rate.y - body.turning.x * rate;
      body.turning.z = body.turning.z + rate;
    }
    if constexpr (begins_to_turn(kPart)) body.turning_rate.z = body.turning_rate.z + growth;
    return;
  }
  const N zero = number<N>(0.0);
  body.acceleration = carried_to<kPart>(body, LaneVector<N>{zero, zero, body.slide});
  if constexpr (turns(kPart)) {
    const N twice = rate + rate;
    body.acceleration.x = body.acceleration.x + body.turning.y * twice;
    body.acceleration.y = body.acceleration.y - body.turning.x * twice;
  }
  if constexpr (begins_to_turn(kPart)) body.acceleration.z = body.acceleration.z + growth;
}

/// What moving the body itself takes.
template <MotionPart kPart, class N>
HWY_INLINE void weigh(const MovingBody& body, BodyState<N>& state) {
  const LaneVector<N> h = numbers<N>(body.first_moment);
  const auto inertia_times = [&](const LaneVector<N>& v) HWY_ATTR {
    return v.x * numbers<N>(body.inertia.col(0)) + v.y * numbers<N>(body.inertia.col(1)) +
           v.z * numbers<N>(body.inertia.col(2));
  };
  state.force = number<N>(body.mass) * state.acceleration;
  state.moment = cross(h, state.acceleration);
  if constexpr (begins_to_turn(kPart)) {
    state.force = state.force + cross(state.turning_rate, h);
    state.moment = state.moment + inertia_times(state.turning_rate);
  }
  if constexpr (turns(kPart)) {
    state.force = state.force + cross(state.turning, cross(state.turning, h));
    state.moment = state.moment + cross(state.turning, inertia_times(state.turning));
  }
}

/// Hands what a body takes to the one before it.
template <class N>
HWY_INLINE void hand_down(const LaneTree::Joint& joint, const BodyState<N>& body,
                          BodyState<N>* states) {
  if (joint.before < 0) return;
  LaneVector<N> force = body.force;
  LaneVector<N> moment = body.moment;
  if (joint.slide_ratio != 0.0) {  // about the origin before the slide
    moment.x = moment.x - body.slide * force.y;
    moment.y = moment.y + body.slide * force.x;
  }
  const N tilt_sine = number<N>(joint.tilt_sine);
  const N tilt_cosine = number<N>(joint.tilt_cosine);
  for (LaneVector<N>* v : {&force, &moment}) {
    into_turned(body.turn.sine, body.turn.cosine, v->y, v->x);
    into_turned(tilt_sine, tilt_cosine, v->z, v->y);
  }
  moment = moment + cross(numbers<N>(joint.onward), force);
  if (turns_last(joint))
    for (LaneVector<N>* v : {&force, &moment})
      into_turned(number<N>(joint.last_turn_sine), number<N>(joint.last_turn_cosine), v->y, v->x);
  BodyState<N>& before = states[joint.before];
  before.force = before.force + force;
  before.moment = before.moment + moment;
}

/// Torques and forces by entries of the posture, without friction. Turns and slides of the states
/// are there already. Held still there are no velocities and accelerations to look at, from rest no
/// velocities.
template <MotionPart kPart, class N>
HWY_INLINE void newton_euler(const MovingBodies& arm, double gravity, const N* velocity,
                             const N* acceleration, BodyState<N>* states, N* effort) {
  const auto& joints = arm.tree.joints;
  const N zero = number<N>(0.0);
  for (std::size_t j = 0; j < joints.size(); ++j) {
    const LaneTree::Joint& joint = joints[j];
    const bool slides = joint.slide_ratio != 0.0;
    const N ratio = number<N>(slides ? joint.slide_ratio : joint.turn_ratio);
    N rate = zero;
    N growth = zero;
    if constexpr (turns(kPart)) rate = ratio * velocity[joint.entry];
    if constexpr (begins_to_turn(kPart)) growth = ratio * acceleration[joint.entry];
    carry<kPart>(joint, gravity, states, states[j]);
    move_joint<kPart>(slides, rate, growth, states[j]);
    weigh<kPart>(arm.bodies[j], states[j]);
  }
  for (Eigen::Index k = 0; k < arm.damping.size(); ++k) effort[k] = zero;
  for (std::size_t j = joints.size(); j-- > 0;) {
    const LaneTree::Joint& joint = joints[j];
    const bool slides = joint.slide_ratio != 0.0;
    const N own = slides ? states[j].force.z : states[j].moment.z;
    effort[joint.entry] =
        effort[joint.entry] + number<N>(slides ? joint.slide_ratio : joint.turn_ratio) * own;
    hand_down(joint, states[j], states);
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
