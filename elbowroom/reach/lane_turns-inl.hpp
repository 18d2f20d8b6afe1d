// The small questions of closed forms (see subproblems.hpp) in vector lanes. An angle is held as
// its cosine and sine, so that only what is given out needs an angle. See base/lanes-inl.hpp.

#if defined(ELBOWROOM_REACH_LANE_TURNS_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef ELBOWROOM_REACH_LANE_TURNS_INL_HPP
#undef ELBOWROOM_REACH_LANE_TURNS_INL_HPP
#else
#define ELBOWROOM_REACH_LANE_TURNS_INL_HPP
#endif

#include "elbowroom/base/lanes-inl.hpp"
#include "elbowroom/base/trigonometric.hpp"
#include "elbowroom/reach/bend.hpp"
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
  constexpr double kNothing = 1e-12;
  const PackMask point = size < pack(kNothing);
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
  const PackMask within = hn::Abs(c) <= size * pack(1.0 + kHalfOfDigits) + pack(kNothing);
  const PackMask alone = hn::Or(point, stretched);
  out.valid = hn::Or(hn::And(hn::Not(point), within), out.any);
  out.valid = hn::And(out.valid, hn::Not(hn::And(alone, second_side)));
  return out;
}

/// The turn of a bend that brings its point to a distance, on one side or the other.
HWY_INLINE OneOfTwoTurns turn_to_distance(const DistanceBend& bend, Pack squared_distance,
                                          PackMask second_side) {
  return turn_with(pack(bend.by_cosine), pack(bend.by_sine), pack(bend.size),
                   pack(bend.inverse_size), pack(bend.half_squares) - pack(0.5) * squared_distance,
                   second_side);
}

// What is one value for all lanes is spread over them; the rest is as it is.
HWY_INLINE Pack pack(Pack value) { return value; }

/// What of WristAxes the turns depend on, where it differs from lane to lane.
struct LaneWristAxes {
  Pack first_cosine;
  Pack first_sine;
  Pack inverse_first_sine;
  Pack third_cosine;
  Pack third_away;
  Pack third_aside;
  Pack twice_second_zero;
};

/// What three turns together have to do, as their axes see it: base^T R end (see WristAxes).
struct WristAsked {
  Pack row[3][3];
};

// kRightAngles: see WristAxes::at_right_angles.

/// What holds whichever side is taken. The first turn, taken back, takes the hand (where the third
/// axis goes) to where the second turn takes the third axis: in the frame of `base`, that is as far
/// along the first axis as the hand is, and as far along the second as the third axis is.
struct HandOfWrist {
  Pack inverse_across;  // 1 / what of the hand lies across the first axis, squared
  Pack towards;         // the second axis, across the first; nothing with right angles
  Pack aside;           // on the first side; on the other as far the other way
  PackMask within;
  PackMask alone;    // both sides are the same
  PackMask on_axis;  // the hand, to the last digits: the first turn is taken to be none
  PackMask any;      // and well within what poses are given to: the first turn may be anything
};
template <bool kRightAngles, class Axes>  // WristAxes, or those of lanes
HWY_INLINE HandOfWrist hand_of_wrist(const Axes& axes, const WristAsked& asked) {
  constexpr double kOnAxis = 1e-12;     // rad
  constexpr double kSingular2 = 1e-12;  // rad^2
  const Pack across = square(asked.row[1][0]) + square(asked.row[2][0]);
  HandOfWrist out;
  out.on_axis = across < pack(kOnAxis * kOnAxis);
  out.any = across < pack(kSingular2);
  out.inverse_across = pack(1.0) / choose(out.on_axis, pack(1.0), across);
  Pack rest = across;
  if constexpr (!kRightAngles) {
    out.towards = (pack(axes.third_cosine) - pack(axes.first_cosine) * asked.row[0][0]) *
                  pack(axes.inverse_first_sine);
    rest = across - square(out.towards);
  }
  out.aside = hn::Sqrt(largest(rest, pack(0.0)));
  out.within = rest >= pack(-kHalfOfDigits) * square(pack(axes.inverse_first_sine));
  out.alone = rest < pack(kOnAxis * kOnAxis);
  return out;
}

/// Whether the side is one.
HWY_INLINE PackMask is_posture(const HandOfWrist& hand, PackMask second_side) {
  return hn::And(hand.within, hn::Not(hn::And(second_side, hand.alone)));
}

struct ThreeAngles {
  Pack first;
  Pack second;
  Pack third;
};
template <bool kRightAngles, class Axes>
HWY_INLINE ThreeAngles angles_of_wrist(const Axes& axes, const WristAsked& asked,
                                       const HandOfWrist& hand, PackMask second_side) {
  const auto& m = asked.row;
  const Pack aside = negate_if(second_side, hand.aside);
  // What falls away with right angles is nothing then: the same bits either way.
  Pack first_cosine = aside * m[2][0];
  Pack first_sine = hn::Neg(aside * m[1][0]);
  Pack away = hn::Neg(m[0][0]);
  if constexpr (!kRightAngles) {
    first_cosine = hand.towards * m[1][0] + first_cosine;
    first_sine = hand.towards * m[2][0] + first_sine;
    away =
        (pack(axes.first_cosine) * pack(axes.third_cosine) + away) * pack(axes.inverse_first_sine);
  }
  const Turn first{choose(hand.on_axis, pack(1.0), first_cosine * hand.inverse_across),
                   choose(hand.on_axis, pack(0.0), first_sine * hand.inverse_across)};
  const Turn second{away * pack(axes.third_away) + aside * pack(axes.third_aside),
                    aside * pack(axes.third_away) - away * pack(axes.third_aside)};
  // Before the third turn what of the second axis lies across the third points along the second
  // column of `end`; the third turn takes it to where the first turn has taken the second axis.
  Turn third{first.cosine * m[1][1] + first.sine * m[2][1],
             first.cosine * m[1][2] + first.sine * m[2][2]};
  if constexpr (!kRightAngles) {
    const Pack along = pack(axes.first_cosine);
    const Pack across = pack(axes.first_sine);
    third = {along * m[0][1] + across * third.cosine, along * m[0][2] + across * third.sine};
  }
  return {angle_of(first), angle_of(second), angle_of(back(third))};
}

/// With axes at right angles the same hand is held from the other side by half a turn of the first
/// and of the third, and the second turned as far the other way from where its third axis lies
/// along the first.
HWY_INLINE ThreeAngles from_other_side(const ThreeAngles& angles, Pack twice_second_zero) {
  const Pack half_turn = pack(3.14159265358979311600e+00);
  const Pack turn = pack(6.28318530717958623200e+00);
  const auto opposite = [&](Pack angle)
                            HWY_ATTR { return angle + negate_if(angle > pack(0.0), half_turn); };
  const Pack second = hn::Neg(angles.second + twice_second_zero);
  const Pack over = choose(second > half_turn, turn, pack(0.0));
  const Pack under = choose(second < hn::Neg(half_turn), turn, pack(0.0));
  return {opposite(angles.first), (second - over) + under, opposite(angles.third)};
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
