// The small questions of closed forms (see subproblems.hpp) in vector lanes. An angle is held as
// its cosine and sine, so that only what is given out needs an angle. See base/lanes-inl.hpp.

#if defined(ELBOWROOM_REACH_LANE_TURNS_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef ELBOWROOM_REACH_LANE_TURNS_INL_HPP
#undef ELBOWROOM_REACH_LANE_TURNS_INL_HPP
#else
#define ELBOWROOM_REACH_LANE_TURNS_INL_HPP
#endif

#include "elbowroom/base/lanes-inl.hpp"
#include "elbowroom/reach/wrist_axes.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

struct Turn {
  Pack cosine;
  Pack sine;
};

HWY_INLINE Turn back(const Turn& turn) { return {turn.cosine, hn::Neg(turn.sine)}; }
HWY_INLINE Pack angle_of(const Turn& turn) { return angle_of(turn.sine, turn.cosine); }

HWY_INLINE PackVector turned(const PackVector& axis, const Turn& turn, const PackVector& v) {
  return turn.cosine * v + turn.sine * cross(axis, v) +
         ((pack(1.0) - turn.cosine) * dot(axis, v)) * axis;
}

/// None where both are zero.
HWY_INLINE Turn unit_turn(Pack cosine, Pack sine) {
  const Pack size = hn::Sqrt(square(cosine) + square(sine));
  const PackMask some = size > pack(0.0);
  const Pack inverse = pack(1.0) / choose(some, size, pack(1.0));
  return {choose(some, cosine * inverse, pack(1.0)), sine * inverse};
}

/// The turn about an axis that takes p to q, or as near as a turn can.
HWY_INLINE Turn turn_onto(const PackVector& axis, const PackVector& p, const PackVector& q) {
  return unit_turn(dot(p, q) - dot(axis, p) * dot(axis, q), dot(axis, cross(p, q)));
}

/// The turn with a cos + b sin = c, on one side or the other. `any`: every turn does it, and none
/// is given; at the end of the reach the second side is no solution of its own.
struct OneOfTwoTurns {
  Turn turn;
  PackMask valid;
  PackMask any;
};
/// `size` is that of (a, b), `inverse` one over it (or anything where it is nothing).
HWY_INLINE OneOfTwoTurns turn_with(Pack a, Pack b, Pack size, Pack inverse, Pack c,
                                   PackMask second_side) {
  constexpr double kSlack = 1e-9;
  const PackMask point = size < pack(1e-12);
  const Pack rest = (size - c) * (size + c);
  const PackMask stretched = rest <= pack(0.0);
  const Turn middle{a * inverse, b * inverse};
  const Pack ratio = choose(stretched, choose(c > pack(0.0), pack(1.0), pack(-1.0)), c * inverse);
  const Pack half = negate_if(
      second_side, choose(stretched, pack(0.0), hn::Sqrt(largest(rest, pack(0.0))) * inverse));
  OneOfTwoTurns out;
  out.turn = {choose(point, pack(1.0), middle.cosine * ratio - middle.sine * half),
              choose(point, pack(0.0), middle.sine * ratio + middle.cosine * half)};
  out.any = hn::And(point, hn::Abs(c) < pack(1e-9));
  const PackMask within = hn::Abs(c) <= size * pack(1.0 + kSlack);
  const PackMask alone = hn::Or(point, stretched);
  out.valid = hn::Or(hn::And(hn::Not(point), within), out.any);
  out.valid = hn::And(out.valid, hn::Not(hn::And(alone, second_side)));
  return out;
}

/// The axes of a wrist (see WristAxes) that differ from lane to lane.
struct LaneWristAxes {
  PackVector first;
  PackVector second;
  PackVector third;
  PackVector normal;
  PackVector second_across;
  Pack cosine;
  Pack inverse_sine2;
  Pack second_by_third;
  Pack inverse_across;
};

// What is one value for all lanes is spread over them; the rest is as it is.
HWY_INLINE Pack pack(Pack value) { return value; }
HWY_INLINE const PackVector& pack(const PackVector& value) { return value; }

/// What the hand asks of a wrist, whichever side is taken. `hand` is where the three turns together
/// take the third axis.
struct AskedOfWrist {
  PackVector hand;
  PackVector hand_by_first;  // hand x first
  PackVector middle;         // of the two places that the second turn can take the third axis to
  Pack along_first;
  Pack height2;
  Pack height;
  Pack inverse_across;  // 1 / what of the hand lies across the first axis, squared
  PackMask within;
  PackMask any;  // the first turn may be anything
};
template <class Axes>  // WristAxes, or those of lanes
HWY_INLINE AskedOfWrist asked_of_wrist(const Axes& axes, const PackVector& hand) {
  // x = second turn of the third axis = first turn taken back of the hand; it keeps second . third
  // and first . hand.
  const PackVector first = pack(axes.first);
  const Pack cosine = pack(axes.cosine);
  const Pack along_second = pack(axes.second_by_third);
  const Pack inverse = pack(axes.inverse_sine2);
  AskedOfWrist out;
  out.hand = hand;
  out.hand_by_first = cross(hand, first);
  out.along_first = dot(first, hand);
  const Pack a = (out.along_first - cosine * along_second) * inverse;
  const Pack b = (along_second - cosine * out.along_first) * inverse;
  const Pack rest = pack(1.0) - (square(a) + square(b) + pack(2.0) * a * b * cosine);
  out.middle = a * first + b * pack(axes.second);
  out.height2 = largest(rest, pack(0.0)) * inverse;
  out.height = hn::Sqrt(out.height2);
  out.within = rest >= pack(-1e-9);
  const Pack across = pack(1.0) - square(out.along_first);
  out.any = across < pack(1e-15);
  out.inverse_across = pack(1.0) / choose(out.any, pack(1.0), across);
  return out;
}

/// Whether the side is one: at the end of the reach the two are the same.
HWY_INLINE PackMask is_posture(const AskedOfWrist& asked, PackMask second_side) {
  return hn::And(asked.within, hn::Not(hn::And(second_side, asked.height2 < pack(1e-24))));
}

/// The three turns on one side. `pointed` is where they take the pointer, at right angles to the
/// hand. The third is not of unit length.
struct ThreeTurnsOfHand {
  Turn first;
  Turn second;
  Turn third;
  PackMask valid;
};
template <class Axes>
HWY_INLINE ThreeTurnsOfHand turns_of_hand(const Axes& axes, const AskedOfWrist& asked,
                                          const PackVector& pointed, PackMask second_side) {
  const PackVector x = asked.middle + negate_if(second_side, asked.height) * pack(axes.normal);
  // Both ends of a turn lie equally far across its axis.
  ThreeTurnsOfHand out;
  out.first = {choose(asked.any, pack(1.0),
                      (dot(x, asked.hand) - square(asked.along_first)) * asked.inverse_across),
               choose(asked.any, pack(0.0), dot(x, asked.hand_by_first) * asked.inverse_across)};
  out.second = {(dot(pack(axes.third), x) - pack(axes.second_by_third * axes.second_by_third)) *
                    pack(axes.inverse_across),
                dot(pack(axes.second_across), x) * pack(axes.inverse_across)};
  // Before the third turn the pointer lies towards the second axis, wherever the first turn has
  // taken that; the third turn is what there is from it to where the pointer has to be.
  const PackVector second = out.first.cosine * pack(axes.second) +
                            out.first.sine * pack(axes.normal) +
                            ((pack(1.0) - out.first.cosine) * pack(axes.cosine)) * pack(axes.first);
  out.third = {dot(pointed, second), dot(cross(pointed, asked.hand), second)};
  out.valid = is_posture(asked, second_side);
  return out;
}

struct ThreeAngles {
  Pack first;
  Pack second;
  Pack third;
};
HWY_INLINE ThreeAngles angles_of(const ThreeTurnsOfHand& turns) {
  return {angle_of(turns.first), angle_of(turns.second), angle_of(turns.third)};
}

/// With axes at right angles the same hand is held from the other side by half a turn of the first
/// and of the third, and the second turned as far the other way.
HWY_INLINE ThreeAngles from_other_side(const ThreeAngles& angles) {
  const auto opposite = [](Pack angle) HWY_ATTR {
    const Pack half_turn = pack(3.14159265358979311600e+00);
    return angle + negate_if(angle > pack(0.0), half_turn);
  };
  return {opposite(angles.first), hn::Neg(angles.second), opposite(angles.third)};
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
