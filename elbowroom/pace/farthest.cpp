#include "elbowroom/pace/farthest.hpp"

#include <algorithm>
#include <cmath>

namespace er {
namespace {

double square(double x) { return x * x; }
double root(double x) { return std::sqrt(std::max(x, 0.0)); }

// How far phases of these jerks get from v, a.
double displacement_over(const SevenPhases& phases, double sign, double v, double a) {
  double s = 0.0;
  for (std::size_t i = 0; i < 7; ++i) {
    const double t = phases.t[i];
    const double j = sign * kClimbJerks[i];
    s += t * (v + t * (a / 2.0 + t * j / 6.0));
    v += t * (a + t * j / 2.0);
    a += t * j;
  }
  return s;
}

// Acceleration up from a0 to `top` (held), down to `bottom` (held), up to a1.
struct Turns {
  double top = 0.0;
  double hold_top = 0.0;
  double bottom = 0.0;
  double hold_bottom = 0.0;
};

// With u = half the duration without the ramp from a0 to a1, and k = top^2 - bottom^2 where nothing
// is held: both follow from the duration and the change of velocity.
Turns turns_of(const ScaledEnds& e, double duration) {
  const double u = std::max(0.5 * (duration - (e.a1 - e.a0)), 0.0);
  const double k = e.v1 - e.v0 + 0.5 * (square(e.a0) - square(e.a1));
  const auto neither = [&]() -> Turns {
    const double w = u > 0.0 ? k / u : 2.0 * std::max(e.a0, e.a1);
    return {0.5 * (w + u), 0.0, 0.5 * (w - u), 0.0};
  };
  const auto top_held = [&]() -> Turns {
    const double fall = root(2.0 * e.a_high * u - k);
    return {e.a_high, 2.0 * (u - fall), e.a_high - fall, 0.0};
  };
  const auto bottom_held = [&]() -> Turns {
    const double fall = root(k - 2.0 * e.a_low * u);
    return {e.a_low + fall, 0.0, e.a_low, 2.0 * (u - fall)};
  };
  const auto both_held = [&]() -> Turns {
    const double span = e.a_high - e.a_low;
    const double held = std::max(2.0 * (u - span), 0.0);
    const double top = (k - square(e.a_high) + square(e.a_low) - e.a_low * held) / span;
    return {e.a_high, top, e.a_low, held - top};
  };
  // What is held takes from the other turn as well, so one hold may do where both turns are too
  // far.
  const Turns free = neither();
  if (free.top <= e.a_high && free.bottom >= e.a_low) return free;
  if (free.bottom < e.a_low)
    if (const Turns held = bottom_held(); held.top <= e.a_high) return held;
  if (free.top > e.a_high)
    if (const Turns held = top_held(); held.bottom >= e.a_low) return held;
  return both_held();
}

// To the highest velocity, a cruise there, and on to the end.
Climb cruising(const ScaledEnds& e, double duration) {
  PlateauChange up = to_plateau(e.v0, e.a0, e.v_high, e.a_low, e.a_high);
  // The way down is a way up seen backwards: accelerations change their signs.
  PlateauChange down = to_plateau(e.v1, -e.a1, e.v_high, -e.a_high, -e.a_low);
  // By rounding alone the plateau may be below where taking back acceleration leads.
  if (up.sign < 0.0) up.t = {0.0, 0.0, std::max(e.a0, 0.0)};
  if (down.sign < 0.0) down.t = {0.0, 0.0, std::max(-e.a1, 0.0)};
  const double cruise = std::max(duration - up.duration - down.duration, 0.0);
  Climb climb;
  climb.phases.t = {up.t[0], up.t[1], up.t[2], cruise, down.t[2], down.t[1], down.t[0]};
  climb.displacement = up.displacement + cruise * e.v_high + down.displacement;
  climb.slope = e.v_high;
  climb.plateau = e.v_high;
  climb.has_plateau = true;
  return climb;
}

}  // namespace

ScaledEnds ScaledEnds::mirrored() const {
  return {-v0, -a0, -v1, -a1, -v_high, -v_low, -a_high, -a_low};
}

double SevenPhases::duration() const {
  double sum = 0.0;
  for (const double one : t) sum += one;
  return sum;
}

PlateauChange to_plateau(double v0, double a0, double plateau, double a_low, double a_high) {
  PlateauChange change;
  // Where the velocity ends when acceleration is only taken back.
  const double taken_back = v0 + 0.5 * a0 * std::abs(a0);
  change.sign = plateau >= taken_back ? 1.0 : -1.0;
  const double a = change.sign * a0;
  const double rise = change.sign * (plateau - v0);
  const double most = change.sign > 0.0 ? a_high : -a_low;
  change.peak = root(rise + 0.5 * a * a);
  double hold = 0.0;
  if (change.peak > most) {
    hold = (rise + 0.5 * a * a - most * most) / most;
    change.peak = most;
  }
  const double first = std::max(change.peak - a, 0.0);
  change.t = {first, hold, change.peak};
  change.duration = first + hold + change.peak;
  const double v_first = v0 + change.sign * first * (a + 0.5 * first);
  const double v_held = v_first + change.sign * hold * change.peak;
  change.displacement = first * (v0 + change.sign * first * (0.5 * a + first / 6.0)) +
                        hold * 0.5 * (v_first + v_held) +
                        change.peak * (plateau - change.sign * change.peak * change.peak / 6.0);
  return change;
}

Climb farthest(const ScaledEnds& e, double duration) {
  const Turns turns = turns_of(e, duration);
  const double first = std::max(turns.top - e.a0, 0.0);
  const double hold = std::max(turns.hold_top, 0.0);
  const double v_top = e.v0 + first * (e.a0 + 0.5 * first) + hold * turns.top;
  Climb climb;
  climb.has_plateau = turns.top >= 0.0 && turns.bottom <= 0.0;
  climb.plateau = v_top + 0.5 * square(turns.top);
  if (climb.has_plateau && climb.plateau > e.v_high) return cruising(e, duration);
  const double fall = std::max(turns.top - turns.bottom, 0.0);
  climb.phases.t = {first,
                    hold,
                    fall,
                    0.0,
                    0.0,
                    std::max(turns.hold_bottom, 0.0),
                    std::max(e.a1 - turns.bottom, 0.0)};
  climb.displacement = displacement_over(climb.phases, 1.0, e.v0, e.a0);
  // The Hamiltonian where jerk changes from up to down; the costate of acceleration is a parabola
  // with its zeros at both ends of the fall.
  climb.slope = v_top + 0.5 * fall * turns.top;
  return climb;
}

PossibleTimes possible_times(const ScaledEnds& e) {
  const double change = e.v1 - e.v0;
  const double ramp = 0.5 * (e.a0 + e.a1) * std::abs(e.a1 - e.a0);
  if (change < ramp) {
    PossibleTimes times = possible_times(e.mirrored());
    for (TimeAndPlace* at : {&times.first, &times.before_gap, &times.after_gap})
      at->displacement = -at->displacement;
    return times;
  }
  PossibleTimes times;
  const double squares = 0.5 * (square(e.a0) + square(e.a1));
  {  // up to a peak, and down
    double peak = std::max({root(change + squares), e.a0, e.a1});
    double hold = 0.0;
    if (peak > e.a_high) {
      hold = std::max((change + squares - square(e.a_high)) / e.a_high, 0.0);
      peak = e.a_high;
    }
    const SevenPhases phases{{peak - e.a0, hold, peak - e.a1, 0.0, 0.0, 0.0, 0.0}};
    times.first = {phases.duration(), displacement_over(phases, 1.0, e.v0, e.a0)};
  }
  // Down to a trough, and up: too much velocity while the trough is between these two.
  if (e.a0 <= 0.0 || e.a1 <= 0.0 || change > squares) return times;
  times.has_gap = true;
  const auto over_trough = [&](double trough) -> TimeAndPlace {
    trough = std::min({trough, e.a0, e.a1});
    double hold = 0.0;
    if (trough < e.a_low) {
      hold = (squares - square(e.a_low) - change) / -e.a_low;
      trough = e.a_low;
    }
    const SevenPhases phases{{e.a0 - trough, hold, e.a1 - trough, 0.0, 0.0, 0.0, 0.0}};
    return {phases.duration(), displacement_over(phases, -1.0, e.v0, e.a0)};
  };
  times.before_gap = over_trough(root(squares - change));
  times.after_gap = over_trough(-root(squares - change));
  return times;
}

}  // namespace er
