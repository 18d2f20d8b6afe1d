#include "elbowroom/pace/rest_ramps.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/pace/rest_ramps.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

// Of what is above zero, to rounding; less than 1e-300 counts as that. From the bits of the number,
// whose exponent is divided by three, towards the root's inverse: no step waits for a division.
HWY_INLINE Pack cube_root(Pack value) {
  const hn::Rebind<std::int64_t, Tag> integers;
  const Pack x = largest(value, pack(1e-300));
  const Pack third = hn::ConvertTo(Tag(), hn::BitCast(integers, x)) * pack(1.0 / 3.0);
  // 4/3 of the bits of 1 (their exponent is 1023), and a little less, so that the guess is off by
  // as much on both sides.
  constexpr double kGuess = (4.0 / 3.0 * 1023.0 - 0.066) * 4503599627370496.0;
  Pack inverse = hn::BitCast(Tag(), hn::ConvertTo(integers, pack(kGuess) - third));
  for (int i = 0; i < 4; ++i) {  // 3e-2, 2e-3, 1e-5, 2e-10, rounding
    const Pack off = pack(1.0) - x * inverse * (inverse * inverse);
    inverse = inverse + inverse * off * pack(1.0 / 3.0);
  }
  const Pack squared = inverse * inverse;
  const Pack root = x * squared;
  return root + (x - root * (root * root)) * squared * pack(1.0 / 3.0);
}

// The w in 2 w^3 - time w^2 + way = 0 up to time / 4: Newton's steps, kept between. Begun with the
// series of the root in r = sqrt(way / time^3), w / time = r + r^2 + 5/2 r^3 + ...
HWY_INLINE Pack ramp_without_hold(Pack way, Pack time, PackMask asked) {
  Pack low = hn::Sqrt(way / time);
  Pack high = pack(0.25) * time;
  const Pack r = low / time;
  const Pack series =
      pack(1.0) + r * (pack(1.0) + r * (pack(2.5) + r * (pack(8.0) + r * pack(28.875))));
  // In the least time the root is the end itself.
  const PackMask at_end = way >= pack(2.0 * (1.0 - 1e-14)) * high * high * high;
  Pack w = choose(at_end, high, least(low * series, high));
  asked = hn::AndNot(at_end, asked);
  for (int i = 0; i < 50 && !none(asked); ++i) {
    const Pack value = way + w * w * (w + w - time);
    const PackMask below = value > pack(0.0);
    low = choose(below, w, low);
    high = choose(below, high, w);
    Pack next = w - value / (w * (pack(6.0) * w - time - time));
    // In the least time the root is at the end, and rounding may put it a little beyond.
    next = choose(hn::And(next > high, next < high * pack(1.0 + 1e-6)), high, next);
    next = choose(hn::And(next >= low, next <= high), next, pack(0.5) * (low + high));
    // After a step as short as this, what is left is below rounding.
    const PackMask moves = hn::Abs(next - w) > pack(1e-9) * w;
    w = choose(asked, next, w);
    asked = hn::And(asked, moves);
  }
  return w;
}

// How a speed is reached, for a jerk of 1.
struct LaneRise {
  Pack speed;
  Pack ramp;
  Pack hold;
};

// A pack of ways, for a jerk of 1. Divisions are what takes long here, one waiting for the other.
struct LaneWays {
  Pack way;
  Pack most_speed;
  Pack a;  // the top acceleration
  Pack over_a;
};

HWY_INLINE Pack values_of(const RestWays::Values& values, int at, PackMask here) {
  return choose(here, load(values.data() + at), pack(1.0));
}

HWY_INLINE LaneWays ways_of(const RestWays& ways, int at, PackMask here) {
  const Pack jerk = values_of(ways.jerk, at, here);
  const Pack over = pack(1.0) / jerk;
  const Pack most = values_of(ways.acceleration, at, here);
  return {hn::Abs(values_of(ways.distance, at, here)) * over,
          values_of(ways.velocity, at, here) * over, most * over, jerk / most};
}

// A ramp that holds the top acceleration a takes a + v / a, otherwise 2 w with w^2 = v: the speed
// at which nothing is left to cruise, where it is held.
HWY_INLINE Pack held_without_cruise(const LaneWays& of) {
  return pack(2.0) * of.way / (of.a + hn::Sqrt(of.a * of.a + pack(4.0) * of.way * of.over_a));
}

HWY_INLINE LaneRise held_or_not(const LaneWays& of, PackMask holds, Pack held, Pack w) {
  return {choose(holds, held, w * w), choose(holds, of.a, w),
          choose(holds, held * of.over_a - of.a, pack(0.0))};
}

// The highest speed that the way and the limits leave room for.
HWY_INLINE LaneRise quickest_rise(const LaneWays& of) {
  const Pack held = least(held_without_cruise(of), of.most_speed);
  const Pack w = least(cube_root(pack(0.5) * of.way), hn::Sqrt(of.most_speed));
  return held_or_not(of, held >= of.a * of.a, held, w);
}

HWY_INLINE Pack least_time(const LaneWays& of, const LaneRise& rise) {
  const Pack up = rise.ramp + rise.ramp + rise.hold;
  return largest(of.way / rise.speed, up) + up;
}

// To the speed at which a way takes `time` of cruise and ramps.
HWY_INLINE LaneRise rise_for(const LaneWays& of, Pack time, PackMask here) {
  // Where the acceleration is held: quadratic equations.
  const Pack left = time - of.a;
  const Pack inside = largest(left * left - pack(4.0) * of.way * of.over_a, pack(0.0));
  const Pack highest = held_without_cruise(of);
  // Without a cruise it takes twice that rise. There the speed hangs on the root of what is left of
  // the time, and rounding alone would leave a short cruise.
  const Pack none_left = pack(2.0) * (of.a + highest * of.over_a);
  const PackMask no_cruise = time <= none_left * pack(1.0 + 1e-11);
  const Pack by_time = choose(no_cruise, highest, pack(2.0) * of.way / (left + hn::Sqrt(inside)));
  const Pack held = least(least(by_time, highest), of.most_speed);
  const PackMask holds = hn::And(left > pack(0.0), held >= of.a * of.a);
  const PackMask others = hn::AndNot(holds, here);
  if (none(others)) return {held, of.a, held * of.over_a - of.a};
  return held_or_not(of, holds, held,
                     least(ramp_without_hold(of.way, time, others), hn::Sqrt(of.most_speed)));
}

// As advanced() has it.
HWY_INLINE void go_along(Pack position, Pack ramp, Pack hold, Pack cruise, Pack jerk, int at,
                         RestRamps& out) {
  const Pack none = pack(0.0);
  const Pack back = hn::Neg(jerk);
  const Pack times[] = {ramp, hold, ramp, cruise, ramp, hold, ramp};
  const Pack jerks[] = {jerk, none, back, none, back, none, jerk};
  Pack velocity = none;
  Pack acceleration = none;
  for (std::size_t i = 0; i < 7; ++i) {
    const Pack time = times[i];
    const Pack change = time * jerks[i];
    position =
        position + time * (velocity + time * (pack(0.5) * acceleration + pack(1.0 / 6.0) * change));
    velocity = velocity + time * (acceleration + pack(0.5) * change);
    acceleration = acceleration + change;
    RestRamps::Phase& phase = out.phases[i];
    store(time, phase.duration.data() + at);
    store(jerks[i], phase.jerk.data() + at);
    store(position, phase.position.data() + at);
    store(velocity, phase.velocity.data() + at);
    store(acceleration, phase.acceleration.data() + at);
  }
}

// Phases that are rounding alone are none. The cruise is what the ramps leave, so that the way is
// exact.
HWY_INLINE void store_ramps(const RestWays& ways, int at, PackMask here, Pack way, Pack time,
                            const LaneRise& rise, RestRamps& out) {
  const Pack some = pack(1e-13) * time;
  const Pack hold = choose(rise.hold > some, rise.hold, pack(0.0));
  const Pack cruise = way / rise.speed - (rise.ramp + rise.ramp) - hold;
  go_along(
      values_of(ways.start, at, here), rise.ramp, hold, choose(cruise > some, cruise, pack(0.0)),
      hn::CopySign(values_of(ways.jerk, at, here), values_of(ways.distance, at, here)), at, out);
}

void ramps_in_lanes(const RestWays& ways, RestRamps& out) {
  for (int at = 0; at < ways.count; at += kPackSize) {
    const PackMask here = lanes_within(at, ways.count);
    const LaneWays of = ways_of(ways, at, here);
    const Pack time = values_of(ways.time, at, here);
    store_ramps(ways, at, here, of.way, time, rise_for(of, time, here), out);
  }
}

void quickest_in_lanes(RestWays& ways, RestRamps& out) {
  for (int at = 0; at < ways.count; at += kPackSize) {
    const PackMask here = lanes_within(at, ways.count);
    const LaneWays of = ways_of(ways, at, here);
    const LaneRise rise = quickest_rise(of);
    const Pack time = least_time(of, rise);
    store(time, ways.time.data() + at);
    store_ramps(ways, at, here, of.way, time, rise, out);
  }
}

void least_times_in_lanes(RestWays& ways) {
  for (int at = 0; at < ways.count; at += kPackSize) {
    const LaneWays of = ways_of(ways, at, lanes_within(at, ways.count));
    store(least_time(of, quickest_rise(of)), ways.time.data() + at);
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(ramps_in_lanes);
HWY_EXPORT(quickest_in_lanes);
HWY_EXPORT(least_times_in_lanes);
}  // namespace

void rest_ramps(const RestWays& ways, RestRamps& out) {
  HWY_DYNAMIC_DISPATCH(ramps_in_lanes)(ways, out);
}

void quickest_ramps(RestWays& ways, RestRamps& out) {
  HWY_DYNAMIC_DISPATCH(quickest_in_lanes)(ways, out);
}

void set_least_times(RestWays& ways) { HWY_DYNAMIC_DISPATCH(least_times_in_lanes)(ways); }

void add_ramps(const RestRamps& ramps, int way, AxisProfile& out) {
  const auto k = static_cast<std::size_t>(way);
  out.add_known<7>([&](std::size_t i) -> AxisProfile::KnownPiece {
    const RestRamps::Phase& phase = ramps.phases[i];
    return {phase.duration[k],
            phase.jerk[k],
            {phase.position[k], phase.velocity[k], phase.acceleration[k]}};
  });
}

}  // namespace er
#endif
