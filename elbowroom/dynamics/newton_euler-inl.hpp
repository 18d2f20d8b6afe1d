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

HWY_INLINE double negative(double value) { return -value; }
HWY_INLINE Pack negative(Pack value) { return hn::Neg(value); }

/// How a joint that turns stands: about z, from where the tilt about x has led.
template <class N>
struct JointTurn {
  N sine;
  N cosine;
};

/// How acceleration grows with the place in a turning body: its columns are that of one metre along
/// x, y and z. (C. Balafoutis and R. Patel, "Dynamic Analysis of Robot Manipulators", 1991, have
/// the angular acceleration as such a tensor.)
template <class N>
struct Spread {
  LaneVector<N> x;
  LaneVector<N> y;
  LaneVector<N> z;
};

/// How a body moves, in its own frame.
template <class N>
struct BodyMotion {
  LaneVector<N> turning;       // rad/s
  LaneVector<N> turning_rate;  // rad/s^2
  LaneVector<N> acceleration;  // m/s^2, of the origin, with gravity as an upward one
  Spread<N> spread;            // 1/s^2
};

/// What that takes.
template <class N>
struct BodyLoad {
  LaneVector<N> force;   // N
  LaneVector<N> moment;  // N m about the origin
};

/// How its joint stands, and what is kept of a body for those after and before it.
template <class N>
struct BodyState {
  JointTurn<N> turn;
  N slide;  // m along z
  BodyLoad<N> load;
  BodyMotion<N> motion;  // of a body that carries others than the next
};

/// Two coordinates in axes that are turned by an angle: x and y about z, y and z about x;
/// exchanged, it leads back.
template <class N>
HWY_INLINE void into_turned(const N& sine, const N& cosine, N& a, N& b) {
  const N first = cosine * a + sine * b;
  b = cosine * b - sine * a;
  a = first;
}

/// Calls `all` with what does the same to two coordinates by a turn that does not change.
template <class N, class All>
HWY_INLINE void into_turned_by(const FixedTurn& turn, const All& all) {
  switch (turn.by) {
    case FixedTurn::By::nothing:
      return;
    case FixedTurn::By::quarter:
      return all([](N& a, N& b) HWY_ATTR {
        const N first = b;
        b = negative(a);
        a = first;
      });
    case FixedTurn::By::half:
      return all([](N& a, N& b) HWY_ATTR {
        a = negative(a);
        b = negative(b);
      });
    case FixedTurn::By::quarter_back:
      return all([](N& a, N& b) HWY_ATTR {
        const N first = negative(b);
        b = a;
        a = first;
      });
    case FixedTurn::By::angle:
      return all([&](N& a, N& b)
                     HWY_ATTR { into_turned(number<N>(turn.sine), number<N>(turn.cosine), a, b); });
  }
}

/// What of a motion there is: held still nothing turns, and from rest nothing turns yet.
enum class MotionPart { held, from_rest, all };

constexpr bool turns(MotionPart part) { return part == MotionPart::all; }
constexpr bool begins_to_turn(MotionPart part) { return part != MotionPart::held; }

template <MotionPart kPart, class N>
HWY_INLINE Spread<N> spread_of(const LaneVector<N>& turning, const LaneVector<N>& rate) {
  Spread<N> out;
  if constexpr (turns(kPart)) {
    const N xx = turning.x * turning.x;
    const N yy = turning.y * turning.y;
    const N zz = turning.z * turning.z;
    const N xy = turning.x * turning.y;
    const N xz = turning.x * turning.z;
    const N yz = turning.y * turning.z;
    out.x = {negative(yy + zz), xy + rate.z, xz - rate.y};
    out.y = {xy - rate.z, negative(xx + zz), yz + rate.x};
    out.z = {xz + rate.y, yz - rate.x, negative(xx + yy)};
  } else {
    const N zero = number<N>(0.0);
    out.x = {zero, rate.z, negative(rate.y)};
    out.y = {negative(rate.z), zero, rate.x};
    out.z = {rate.y, negative(rate.x), zero};
  }
  return out;
}

/// How a body moves, in axes that are turned about z or about x.
template <MotionPart kPart, class N, class Turn>
HWY_INLINE void motion_about_z(const Turn& turn, BodyMotion<N>& body) {
  if constexpr (turns(kPart)) turn(body.turning.x, body.turning.y);
  if constexpr (begins_to_turn(kPart)) turn(body.turning_rate.x, body.turning_rate.y);
  turn(body.acceleration.x, body.acceleration.y);
}
template <MotionPart kPart, class N, class Turn>
HWY_INLINE void motion_about_x(const Turn& turn, BodyMotion<N>& body) {
  if constexpr (turns(kPart)) turn(body.turning.y, body.turning.z);
  if constexpr (begins_to_turn(kPart)) turn(body.turning_rate.y, body.turning_rate.z);
  turn(body.acceleration.y, body.acceleration.z);
}

/// A joint on the mount, before it moves.
template <class N>
HWY_INLINE void hold_up(const LaneTree::Joint& joint, double gravity, BodyMotion<N>& now) {
  const LaneVector<N> zero = numbers<N>(Vector3::Zero());
  now.turning = zero;
  now.turning_rate = zero;
  now.acceleration = numbers<N>(gravity * joint.start.rotation.row(2).transpose());
}

/// From a body to the frame of a joint that it carries, before the joint itself moves.
template <MotionPart kPart, class N>
HWY_INLINE void carry(const MovingBody& body, BodyMotion<N>& now) {
  if constexpr (begins_to_turn(kPart)) {
    const Vector3& to = body.onward;
    if (body.goes_along[0]) now.acceleration = now.acceleration + number<N>(to[0]) * now.spread.x;
    if (body.goes_along[1]) now.acceleration = now.acceleration + number<N>(to[1]) * now.spread.y;
    if (body.goes_along[2]) now.acceleration = now.acceleration + number<N>(to[2]) * now.spread.z;
  }
  into_turned_by<N>(body.last_turn,
                    [&](const auto& turn) HWY_ATTR { motion_about_z<kPart>(turn, now); });
  into_turned_by<N>(body.tilt,
                    [&](const auto& tilt) HWY_ATTR { motion_about_x<kPart>(tilt, now); });
}

/// And the joint's own part, at a rate and a growth of that rate: it turns, or slides.
template <MotionPart kPart, class N>
HWY_INLINE void turn_joint(const JointTurn<N>& by, const N& rate, const N& growth,
                           BodyMotion<N>& body) {
  motion_about_z<kPart>([&](N& a, N& b) HWY_ATTR { into_turned(by.sine, by.cosine, a, b); }, body);
  if constexpr (turns(kPart)) {
    body.turning_rate.x = body.turning_rate.x + body.turning.y * rate;
    body.turning_rate.y = body.turning_rate.y - body.turning.x * rate;
    body.turning.z = body.turning.z + rate;
  }
  if constexpr (begins_to_turn(kPart)) {
    body.turning_rate.z = body.turning_rate.z + growth;
    body.spread = spread_of<kPart>(body.turning, body.turning_rate);
  }
}
template <MotionPart kPart, class N>
HWY_INLINE void slide_joint(const N& by, const N& rate, const N& growth, BodyMotion<N>& body) {
  if constexpr (begins_to_turn(kPart)) {
    body.spread = spread_of<kPart>(body.turning, body.turning_rate);
    body.acceleration = body.acceleration + by * body.spread.z;
    body.acceleration.z = body.acceleration.z + growth;
  }
  if constexpr (turns(kPart)) {
    const N twice = rate + rate;
    body.acceleration.x = body.acceleration.x + body.turning.y * twice;
    body.acceleration.y = body.acceleration.y - body.turning.x * twice;
  }
}

/// What moving a body takes: the sums of m a and of m r x a, where a at r is that of the origin and
/// the spread times r. What turns has neither mass nor moments along z.
template <MotionPart kPart, class N>
HWY_INLINE BodyLoad<N> load_of_turning(const Eigen::Matrix4d& moments, const BodyMotion<N>& now) {
  const LaneVector<N>& a = now.acceleration;
  const N hx = number<N>(moments(0, 3));
  const N hy = number<N>(moments(1, 3));
  LaneVector<N> moment{hy * a.z, negative(hx * a.z), hx * a.y - hy * a.x};
  if constexpr (!begins_to_turn(kPart)) return {numbers<N>(Vector3::Zero()), moment};
  const Spread<N>& s = now.spread;
  const N xx = number<N>(moments(0, 0));
  const N xy = number<N>(moments(0, 1));
  const N xz = number<N>(moments(0, 2));
  const N yy = number<N>(moments(1, 1));
  const N yz = number<N>(moments(1, 2));
  moment.x = moment.x + ((xy * s.x.z + yy * s.y.z + yz * s.z.z) - (xz * s.x.y + yz * s.y.y));
  moment.y = moment.y + ((xz * s.x.x + yz * s.y.x) - (xx * s.x.z + xy * s.y.z + xz * s.z.z));
  moment.z =
      moment.z + ((xx * s.x.y + xy * s.y.y + xz * s.z.y) - (xy * s.x.x + yy * s.y.x + yz * s.z.x));
  return {hx * s.x + hy * s.y, moment};
}
template <MotionPart kPart, class N>
HWY_INLINE BodyLoad<N> load_of_sliding(const Eigen::Matrix4d& moments, const BodyMotion<N>& now) {
  BodyLoad<N> out = load_of_turning<kPart>(moments, now);
  const LaneVector<N>& a = now.acceleration;
  const N hz = number<N>(moments(2, 3));
  out.force = out.force + number<N>(moments(3, 3)) * a;
  out.moment.x = out.moment.x - hz * a.y;
  out.moment.y = out.moment.y + hz * a.x;
  if constexpr (begins_to_turn(kPart)) {
    const LaneVector<N>& s = now.spread.z;
    const N zz = number<N>(moments(2, 2));
    out.force = out.force + hz * s;
    out.moment.x = out.moment.x - zz * s.y;
    out.moment.y = out.moment.y + zz * s.x;
  }
  return out;
}

/// Hands what a body takes to the one before it.
template <class N>
HWY_INLINE void hand_down(const LaneTree::Joint& joint, const MovingBody& body,
                          const BodyState<N>& state, BodyState<N>* states) {
  LaneVector<N> force = state.load.force;
  LaneVector<N> moment = state.load.moment;
  if (joint.slide_ratio != 0.0) {  // about the origin before the slide
    moment.x = moment.x - state.slide * force.y;
    moment.y = moment.y + state.slide * force.x;
  } else {
    into_turned(state.turn.sine, state.turn.cosine, force.y, force.x);
    into_turned(state.turn.sine, state.turn.cosine, moment.y, moment.x);
  }
  into_turned_by<N>(body.tilt, [&](const auto& turn) HWY_ATTR {
    turn(force.z, force.y);
    turn(moment.z, moment.y);
  });
  into_turned_by<N>(body.last_turn, [&](const auto& turn) HWY_ATTR {
    turn(force.y, force.x);
    turn(moment.y, moment.x);
  });
  const Vector3& to = body.onward;
  if (body.goes_along[0]) {
    moment.y = moment.y - number<N>(to[0]) * force.z;
    moment.z = moment.z + number<N>(to[0]) * force.y;
  }
  if (body.goes_along[1]) {
    moment.x = moment.x + number<N>(to[1]) * force.z;
    moment.z = moment.z - number<N>(to[1]) * force.x;
  }
  if (body.goes_along[2]) {
    moment.x = moment.x - number<N>(to[2]) * force.y;
    moment.y = moment.y + number<N>(to[2]) * force.x;
  }
  BodyLoad<N>& before = states[joint.before].load;
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
  BodyMotion<N> now;  // of the body before, in registers
  for (std::size_t j = 0; j < joints.size(); ++j) {
    const LaneTree::Joint& joint = joints[j];
    const MovingBody& body = arm.bodies[j];
    const bool slides = joint.slide_ratio != 0.0;
    const N ratio = number<N>(slides ? joint.slide_ratio : joint.turn_ratio);
    N rate = zero;
    N growth = zero;
    if constexpr (turns(kPart)) rate = ratio * velocity[joint.entry];
    if constexpr (begins_to_turn(kPart)) growth = ratio * acceleration[joint.entry];
    if (joint.before < 0) {
      hold_up(joint, gravity, now);
    } else {
      if (joint.before + 1 != static_cast<int>(j)) now = states[joint.before].motion;
      carry<kPart>(body, now);
    }
    if (slides) {
      slide_joint<kPart>(states[j].slide, rate, growth, now);
      states[j].load = load_of_sliding<kPart>(body.moments, now);
    } else {
      turn_joint<kPart>(states[j].turn, rate, growth, now);
      states[j].load = load_of_turning<kPart>(body.moments, now);
    }
    if (body.carries_others) states[j].motion = now;
  }
  for (Eigen::Index k = 0; k < arm.damping.size(); ++k) effort[k] = zero;
  for (std::size_t j = joints.size(); j-- > 0;) {
    const LaneTree::Joint& joint = joints[j];
    const bool slides = joint.slide_ratio != 0.0;
    const N own = slides ? states[j].load.force.z : states[j].load.moment.z;
    effort[joint.entry] =
        effort[joint.entry] + number<N>(slides ? joint.slide_ratio : joint.turn_ratio) * own;
    if (joint.before >= 0) hand_down(joint, arm.bodies[j], states[j], states);
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
