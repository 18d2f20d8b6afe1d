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

// The speed at which a way takes `time` of cruise and ramps, for a jerk of 1.
HWY_INLINE Pack cruise_speed(Pack way, Pack time, Pack most_speed, Pack a, PackMask here) {
  // A ramp that holds the top acceleration a takes a + v / a: quadratic equations, also for the
  // speed at which nothing is left to cruise. Otherwise it takes 2 w with w^2 = v.
  const Pack left = time - a;
  const Pack four = pack(4.0) * way / a;
  const Pack inside = largest(left * left - four, pack(0.0));
  const Pack twice = way + way;
  const Pack highest = twice / (a + hn::Sqrt(a * a + four));
  // Without a cruise it takes twice that rise. There the speed hangs on the root of what is left of
  // the time, and rounding alone would leave a short cruise.
  const Pack none_left = pack(2.0) * (a + highest / a);
  const PackMask no_cruise = time <= none_left * pack(1.0 + 1e-11);
  const Pack by_time = choose(no_cruise, highest, twice / (left + hn::Sqrt(inside)));
  const Pack held = least(least(by_time, highest), most_speed);
  const PackMask holds = hn::And(left > pack(0.0), held >= a * a);
  const PackMask others = hn::AndNot(holds, here);
  const Pack w = ramp_without_hold(way, time, others);
  return choose(holds, held, least(w * w, most_speed));
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
    const Pack most_acceleration = get(ways.acceleration) * over;
    const Pack v = cruise_speed(way, time, get(ways.velocity) * over, most_acceleration, here);
    const Pack ramp = least(most_acceleration, hn::Sqrt(v));
    // Phases that are rounding alone are none. The cruise is what the ramps leave, so that the way
    // is exact.
    const Pack some = pack(1e-13) * time;
    const Pack hold = v / ramp - ramp;
    const Pack kept_hold = choose(hold > some, hold, pack(0.0));
    const Pack cruise = way / v - (ramp + ramp) - kept_hold;
    store(ramp, out.ramp.data() + at);
    store(kept_hold, out.hold.data() + at);
    store(choose(cruise > some, cruise, pack(0.0)), out.cruise.data() + at);
    store(hn::CopySign(jerk, distance), out.jerk.data() + at);
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
  const double ramp = ramps.ramp[k];
  const double hold = ramps.hold[k];
  const double jerk = ramps.jerk[k];
  out.add(ramp, jerk);
  out.add(hold, 0.0);
  out.add(ramp, -jerk);
  out.add(ramps.cruise[k], 0.0);
  out.add(ramp, -jerk);
  out.add(hold, 0.0);
  out.add(ramp, jerk);
}

}  // namespace er
#endif
