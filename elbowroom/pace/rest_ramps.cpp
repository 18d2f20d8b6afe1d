#include "elbowroom/pace/rest_ramps.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/pace/rest_ramps.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

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

// To the speed at which a way takes `time` of cruise and ramps. `over_a` is 1 / a: divisions are
// what takes long here, one waiting for the other.
HWY_INLINE LaneRise rise_for(Pack way, Pack time, Pack most_speed, Pack a, Pack over_a,
                             PackMask here) {
  // A ramp that holds the top acceleration a takes a + v / a: quadratic equations, also for the
  // speed at which nothing is left to cruise. Otherwise it takes 2 w with w^2 = v.
  const Pack left = time - a;
  const Pack four = pack(4.0) * way * over_a;
  const Pack inside = largest(left * left - four, pack(0.0));
  const Pack twice = way + way;
  const Pack highest = twice / (a + hn::Sqrt(a * a + four));
  // Without a cruise it takes twice that rise. There the speed hangs on the root of what is left of
  // the time, and rounding alone would leave a short cruise.
  const Pack none_left = pack(2.0) * (a + highest * over_a);
  const PackMask no_cruise = time <= none_left * pack(1.0 + 1e-11);
  const Pack by_time = choose(no_cruise, highest, twice / (left + hn::Sqrt(inside)));
  const Pack held = least(least(by_time, highest), most_speed);
  const PackMask holds = hn::And(left > pack(0.0), held >= a * a);
  const PackMask others = hn::AndNot(holds, here);
  if (none(others)) return {held, a, held * over_a - a};
  const Pack w = least(ramp_without_hold(way, time, others), hn::Sqrt(most_speed));
  return {choose(holds, held, w * w), choose(holds, a, w),
          choose(holds, held * over_a - a, pack(0.0))};
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

void ramps_in_lanes(const RestWays& ways, RestRamps& out) {
  for (int at = 0; at < ways.count; at += kPackSize) {
    const PackMask here = lanes_within(at, ways.count);
    const auto get = [&](const RestWays::Values& values)
                         HWY_ATTR { return choose(here, load(values.data() + at), pack(1.0)); };
    const Pack jerk = get(ways.jerk);
    const Pack over = pack(1.0) / jerk;
    const Pack distance = get(ways.distance);
    const Pack time = get(ways.time);
    const Pack way = hn::Abs(distance) * over;
    const Pack most = get(ways.acceleration);
    const auto [v, ramp, hold] =
        rise_for(way, time, get(ways.velocity) * over, most * over, jerk / most, here);
    // Phases that are rounding alone are none. The cruise is what the ramps leave, so that the way
    // is exact.
    const Pack some = pack(1e-13) * time;
    const Pack kept_hold = choose(hold > some, hold, pack(0.0));
    const Pack cruise = way / v - (ramp + ramp) - kept_hold;
    const Pack kept_cruise = choose(cruise > some, cruise, pack(0.0));
    go_along(get(ways.start), ramp, kept_hold, kept_cruise, hn::CopySign(jerk, distance), at, out);
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(ramps_in_lanes);
}  // namespace

void rest_ramps(const RestWays& ways, RestRamps& out) {
  HWY_DYNAMIC_DISPATCH(ramps_in_lanes)(ways, out);
}

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
