#include "elbowroom/pace/jerk_limited.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/pace/rest_ramps.hpp"

namespace er {
namespace {

constexpr double kNever = std::numeric_limits<double>::infinity();

// What brings a state back within the limits, as jerks of +1 and -1.
class BackWithin {
 public:
  BackWithin(const AxisState& scaled, const ScaledEnds& limits, AxisProfile& out)
      : limits_(limits), out_(out), v_(scaled.velocity), a_(scaled.acceleration) {
    if (a_ > limits_.a_high) go(a_ - limits_.a_high, -1.0);
    if (a_ < limits_.a_low) go(limits_.a_low - a_, 1.0);
    // What the velocity comes to at least, whatever is done.
    if (std::max(v_, v_ + 0.5 * a_ * std::max(a_, 0.0)) > limits_.v_high)
      slow_down(1.0, limits_.v_high, limits_.v_low, -limits_.a_low);
    if (std::min(v_, v_ - 0.5 * a_ * std::min(a_, 0.0)) < limits_.v_low)
      slow_down(-1.0, limits_.v_low, limits_.v_high, limits_.a_high);
  }

 private:
  void go(double time, double jerk) {
    if (!(time > 0.0)) return;
    out_.add(time, jerk);
    v_ += time * (a_ + 0.5 * time * jerk);
    a_ += time * jerk;
  }

  // Too fast in the direction of `sign`: down until the speed is `most`, with what acceleration
  // that leaves, if it can be taken back before the other limit; else until the two meet at zero.
  void slow_down(double sign, double most, double least, double hardest) {
    const double excess = sign * (v_ - most);
    const double a = sign * a_;
    double left = std::sqrt(std::max(a * a + 2.0 * excess, 0.0));
    double held = 0.0;
    if (left > hardest) {
      held = (excess + 0.5 * (a * a - hardest * hardest)) / hardest;
      left = hardest;
    }
    if (sign * (most - least) >= 0.5 * left * left) {
      go(a + left, -sign);
      go(held, 0.0);
      v_ = most;
      return;
    }
    left = std::sqrt(std::max(excess + 0.5 * a * a, 0.0));
    held = 0.0;
    if (left > hardest) {
      held = (excess + 0.5 * a * a - hardest * hardest) / hardest;
      left = hardest;
    }
    go(a + left, -sign);
    go(held, 0.0);
    go(-sign * a_, sign);
    a_ = 0.0;
    v_ = std::clamp(v_, limits_.v_low, limits_.v_high);
  }

  const ScaledEnds& limits_;
  AxisProfile& out_;
  double v_;
  double a_;
};

// The last step of Newton's method, after which what is left is below rounding.
constexpr double kLastStep = 1e-9;

// The duration after low.time at which the farthest up meets `distance`: between `low`, where it
// falls short, and `high`, where it does not. Newton's method, kept between.
double meeting_time(const ScaledEnds& ends, double distance, const TimeAndPlace& low,
                    const TimeAndPlace& high) {
  double shortest = low.time;
  double longest = high.time;
  // What is left after a change of velocity grows with the square or the cube of the time.
  double time = shortest + (longest - shortest) * std::sqrt((distance - low.displacement) /
                                                            (high.displacement - low.displacement));
  for (int i = 0; i < 200; ++i) {
    const Climb climb = farthest(ends, time);
    const double over = climb.displacement - distance;
    (over < 0.0 ? shortest : longest) = time;
    double next = climb.slope > 0.0 ? time - over / climb.slope : kNever;
    if (std::abs(next - time) <= kLastStep * time) return std::clamp(next, low.time, high.time);
    if (!(next > shortest && next < longest)) next = 0.5 * (shortest + longest);
    if (next <= shortest || next >= longest) return longest;
    time = next;
  }
  return longest;
}

// The duration after `start` at which the farthest up meets `distance`, when no duration is too
// long.
double meeting_time_after(const ScaledEnds& ends, double distance, const TimeAndPlace& start) {
  if (std::isfinite(ends.v_high)) {
    const PlateauChange up = to_plateau(ends.v0, ends.a0, ends.v_high, ends.a_low, ends.a_high);
    const PlateauChange down =
        to_plateau(ends.v1, -ends.a1, ends.v_high, -ends.a_high, -ends.a_low);
    const double time = up.duration + down.duration;
    const double place = up.displacement + down.displacement;
    if (distance >= place) return std::max(time + (distance - place) / ends.v_high, start.time);
    if (time <= start.time) return start.time;
    return meeting_time(ends, distance, start, {time, place});
  }
  TimeAndPlace high{std::max(start.time, 1e-9), start.displacement};
  while (high.displacement < distance && high.time < 1e12) {
    high.time *= 2.0;
    high.displacement = farthest(ends, high.time).displacement;
  }
  return meeting_time(ends, distance, start, high);
}

// The least duration at or after start.time, which is one that the ends allow, at which
// `distance` can be reached, if it is before `end`; else kNever.
double reaching_time(const ScaledEnds& ends, double distance, const TimeAndPlace& start,
                     const TimeAndPlace* end) {
  if (distance == start.displacement) return start.time;
  if (distance < start.displacement) {
    const TimeAndPlace from{start.time, -start.displacement};
    const TimeAndPlace to = end ? TimeAndPlace{end->time, -end->displacement} : TimeAndPlace{};
    return reaching_time(ends.mirrored(), -distance, from, end ? &to : nullptr);
  }
  if (end == nullptr) return meeting_time_after(ends, distance, start);
  if (end->displacement < distance) return kNever;
  return meeting_time(ends, distance, start, *end);
}

bool is_at_rest(const ScaledEnds& e) {
  return e.v0 == 0.0 && e.a0 == 0.0 && e.v1 == 0.0 && e.a1 == 0.0;
}

// A motion with a plateau of velocity.
struct Cruise {
  PlateauChange up;
  PlateauChange down;  // seen backwards
  double time = 0.0;
};

Cruise cruise_at(const ScaledEnds& e, double plateau, double duration) {
  Cruise cruise{to_plateau(e.v0, e.a0, plateau, e.a_low, e.a_high),
                to_plateau(e.v1, -e.a1, plateau, -e.a_high, -e.a_low), 0.0};
  cruise.time = duration - cruise.up.duration - cruise.down.duration;
  return cruise;
}

// `low` and `high`: plateaus, and how far the motions with them get that take `duration`.
struct Plateau {
  double velocity = 0.0;
  double displacement = 0.0;
};

Cruise cruise_for(const ScaledEnds& e, double distance, double duration, const Plateau& low,
                  const Plateau& high) {
  double least = low.velocity;
  double most = high.velocity;
  double plateau = least + (most - least) * (distance - low.displacement) /
                               (high.displacement - low.displacement);
  for (int i = 0; i < 200; ++i) {
    const Cruise cruise = cruise_at(e, plateau, duration);
    const double over =
        cruise.up.displacement + cruise.down.displacement + plateau * cruise.time - distance;
    (over < 0.0 ? least : most) = plateau;
    // The distance grows by the time at the plateau, and half of the last of both changes.
    const double slope = cruise.time + 0.5 * (cruise.up.peak + cruise.down.peak);
    double next = plateau - over / slope;
    const bool last = std::abs(next - plateau) <= kLastStep * std::abs(plateau);
    if (!last && !(next > least && next < most)) next = 0.5 * (least + most);
    if (next == plateau) return cruise;
    plateau = next;
    if (last) break;
  }
  return cruise_at(e, plateau, duration);
}

void add_cruise(const Cruise& cruise, double jerk, AxisProfile& out) {
  const auto& [up, down, time] = cruise;
  out.add(up.t[0], up.sign * jerk);
  out.add(up.t[1], 0.0);
  out.add(up.t[2], -up.sign * jerk);
  out.add(time, 0.0);
  out.add(down.t[2], -down.sign * jerk);
  out.add(down.t[1], 0.0);
  out.add(down.t[0], down.sign * jerk);
}

// Adds the mean of two motions of the same duration, `share` of the first.
void add_mean(const SevenPhases& first, double first_sign, const SevenPhases& second,
              double second_sign, double share, double jerk, AxisProfile& out) {
  std::size_t i = 0;
  std::size_t k = 0;
  double first_left = first.t[0];
  double second_left = second.t[0];
  while (true) {
    while (i < 7 && first_left <= 0.0) first_left = ++i < 7 ? first.t[i] : 0.0;
    while (k < 7 && second_left <= 0.0) second_left = ++k < 7 ? second.t[k] : 0.0;
    if (i == 7 || k == 7) return;
    const double step = std::min(first_left, second_left);
    out.add(step, jerk * (share * first_sign * kClimbJerks[i] +
                          (1.0 - share) * second_sign * kClimbJerks[k]));
    first_left -= step;
    second_left -= step;
  }
}

bool is_symmetric(const ScaledEnds& ends) {
  return ends.v_low == -ends.v_high && ends.a_low == -ends.a_high;
}

void add_rest_to_rest(double distance, const ScaledEnds& limits, double time, double jerk,
                      AxisProfile& out) {
  RestWays ways;
  ways.count = 1;
  ways.start[0] = out.end().position;
  ways.distance[0] = distance * jerk;
  ways.time[0] = time;
  ways.velocity[0] = limits.v_high * jerk;
  ways.acceleration[0] = limits.a_high * jerk;
  ways.jerk[0] = jerk;
  RestRamps ramps;
  rest_ramps(ways, ramps);
  add_ramps(ramps, 0, out);
}

}  // namespace

JerkLimited::JerkLimited(const AxisState& from, const AxisState& to, const AxisLimits& limits)
    : limits_(limits), prefix_(from) {
  check_limits(limits);
  if (!(limits.jerk > 0.0) || !std::isfinite(limits.jerk))
    throw InputError(
        fmt::format("the jerk limit is above zero and finite, found {:g}", limits.jerk));
  check_target(to, limits);
  const double scale = 1.0 / limits.jerk;
  ends_.v_low = limits.velocity_low * scale;
  ends_.v_high = limits.velocity_high * scale;
  ends_.a_low = limits.acceleration_low * scale;
  ends_.a_high = limits.acceleration_high * scale;
  AxisProfile scaled({0.0, from.velocity * scale, from.acceleration * scale});
  BackWithin(scaled.end(), ends_, scaled);
  for (int i = 0; i < scaled.count(); ++i)
    prefix_.add(scaled.piece(i).duration, scaled.piece(i).jerk * limits.jerk);
  back_within_ = prefix_.duration();
  ends_.v0 = prefix_.end().velocity * scale;
  ends_.a0 = prefix_.end().acceleration * scale;
  ends_.v1 = to.velocity * scale;
  ends_.a1 = to.acceleration * scale;
  distance_ = (to.position - prefix_.end().position) * scale;
  rests_ = is_at_rest(ends_) && distance_ == 0.0;
  if (rests_) return;
  if (is_at_rest(ends_) && is_symmetric(ends_)) {
    shortest_ = rest_to_rest_time(distance_, ends_.v_high, ends_.a_high, 1.0);
    return;
  }
  times_ = possible_times(ends_);
  shortest_ =
      reaching_time(ends_, distance_, times_.first, times_.has_gap ? &times_.before_gap : nullptr);
  if (shortest_ == kNever) shortest_ = reaching_time(ends_, distance_, times_.after_gap, nullptr);
}

// Displacements that differ by less than this are the same.
double JerkLimited::rounding(double time) const {
  const double fastest = std::max({std::abs(ends_.v0), std::abs(ends_.v1),
                                   time * std::max(std::abs(ends_.a0), std::abs(ends_.a1))});
  return 1e-13 * (std::abs(distance_) + time * fastest + 1e-30);
}

// The least time from `time` on.
double JerkLimited::next_time(double time) const {
  if (rests_) return time;
  if (time <= shortest_) return shortest_;
  if (is_at_rest(ends_)) return time;
  bool before_gap = times_.has_gap && time < times_.before_gap.time;
  if (times_.has_gap && !before_gap && time < times_.after_gap.time)
    return reaching_time(ends_, distance_, times_.after_gap, nullptr);
  const double up = farthest(ends_, time).displacement;
  const double down = -farthest(ends_.mirrored(), time).displacement;
  const double alike = rounding(time);
  if (distance_ <= up + alike && distance_ >= down - alike) return time;
  const TimeAndPlace start{time, distance_ > up ? up : down};
  const double next =
      reaching_time(ends_, distance_, start, before_gap ? &times_.before_gap : nullptr);
  return next < kNever ? next : reaching_time(ends_, distance_, times_.after_gap, nullptr);
}

double JerkLimited::possible_from(double duration) const {
  const double next = next_time(duration - back_within_);
  return next <= duration - back_within_ ? duration : back_within_ + next;
}

AxisProfile JerkLimited::profile(double duration) const {
  AxisProfile out = prefix_;
  const double time = std::max(duration - back_within_, 0.0);
  if (rests_) {
    out.add(time, 0.0);
    return out;
  }
  if (is_at_rest(ends_) && is_symmetric(ends_)) {
    add_rest_to_rest(distance_, ends_, std::max(time, shortest_), limits_.jerk, out);
    return out;
  }
  const ScaledEnds mirrored = ends_.mirrored();
  const Climb up = farthest(ends_, time);
  const Climb down = farthest(mirrored, time);
  const double high = up.displacement;
  const double low = -down.displacement;
  const double alike = rounding(time);
  const auto add = [&](const SevenPhases& phases, double sign) {
    for (std::size_t i = 0; i < 7; ++i) out.add(phases.t[i], sign * kClimbJerks[i] * limits_.jerk);
  };
  if (distance_ >= high - alike) {
    add(up.phases, 1.0);
    return out;
  }
  if (distance_ <= low + alike) {
    add(down.phases, -1.0);
    return out;
  }
  if (up.has_plateau && down.has_plateau) {
    const Cruise cruise =
        cruise_for(ends_, distance_, time, {-down.plateau, low}, {up.plateau, high});
    if (cruise.time >= 0.0) {
      add_cruise(cruise, limits_.jerk, out);
      return out;
    }
  }
  const double share = (distance_ - low) / (high - low);
  add_mean(up.phases, 1.0, down.phases, -1.0, share, limits_.jerk, out);
  return out;
}

double rest_to_rest_time(double distance, double velocity, double acceleration, double jerk) {
  const double d = std::abs(distance) / jerk;
  const double v = velocity / jerk;
  const double a = acceleration / jerk;
  const bool holds = v >= a * a;  // top acceleration is reached before top speed
  const double rise = holds ? a + v / a : 2.0 * std::sqrt(v);
  if (d >= v * rise) return d / v + rise;
  if (d <= 2.0 * a * a * a) return 4.0 * std::cbrt(0.5 * d);
  return a + std::sqrt(a * a + 4.0 * d / a);
}

}  // namespace er
