#include "elbowroom/pace/jerk_limited.hpp"

#include <catch2/catch.hpp>
#include <cmath>
#include <vector>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"
#include "support/allocations.hpp"

using namespace er;
using Catch::Contains;
using er::test::allocations;

namespace {

constexpr int kSteps = 40;  // on a lattice

// Motions whose jerk is +1, 0 or -1 over each of many equal steps, by dynamic programming:
// accelerations are multiples of the step and velocities of half its square, so there are finitely
// many states, and the farthest up and down to each after each number of steps is exact. All of
// them are motions that the library may use; none may beat it.
class Lattice {
 public:
  static constexpr double kStep = 0.125;
  static constexpr double kUnit = 0.5 * kStep * kStep;  // of velocity

  struct Limits {
    int a_low, a_high, v_low, v_high;
  };
  struct Ends {
    int v0, a0, v1, a1;
  };

  // Farthest up (sign 1) or down (-1) in each number of steps; NaN where there is no way.
  static std::vector<double> farthest(const Limits& limits, const Ends& ends, double sign,
                                      int steps) {
    const int width = limits.v_high - limits.v_low + 1;
    const int height = limits.a_high - limits.a_low + 1;
    const auto index = [&](int v, int a) {
      return static_cast<std::size_t>((a - limits.a_low) * width + v - limits.v_low);
    };
    const double none = -1e300;
    std::vector<double> now(static_cast<std::size_t>(width * height), none);
    now[index(ends.v0, ends.a0)] = 0.0;
    std::vector<double> out;
    for (int n = 0; n <= steps; ++n) {
      const double there = now[index(ends.v1, ends.a1)];
      out.push_back(there > none ? sign * there : std::nan(""));
      std::vector<double> next(now.size(), none);
      for (int a = limits.a_low; a <= limits.a_high; ++a)
        for (int v = limits.v_low; v <= limits.v_high; ++v) {
          const double so_far = now[index(v, a)];
          if (so_far == none) continue;
          for (int j = -1; j <= 1; ++j) {
            const int a2 = a + j;
            const int v2 = v + a + a2;
            if (a2 < limits.a_low || a2 > limits.a_high || v2 < limits.v_low || v2 > limits.v_high)
              continue;
            const double moved = kStep * (v * kUnit + kStep * (a * kStep / 2.0 + kStep * j / 6.0));
            double& best = next[index(v2, a2)];
            best = std::max(best, so_far + sign * moved);
          }
        }
      now.swap(next);
    }
    return out;
  }
};

struct LatticeTask {
  Lattice::Limits limits;
  Lattice::Ends ends;
  ScaledEnds scaled;

  [[nodiscard]] std::vector<double> farthest(double sign, int steps) const {
    return Lattice::farthest(limits, ends, sign, steps);
  }
};

LatticeTask random_lattice_task(RandomStream& random) {
  const auto between = [&](int low, int high) { return low + random.index(high - low + 1); };
  while (true) {
    LatticeTask task{};
    task.limits = {-between(2, 8), between(2, 8), -between(10, 90), between(10, 90)};
    const auto& l = task.limits;
    const auto a = [&] { return random.index(3) == 0 ? 0 : between(l.a_low, l.a_high); };
    // Speeds and accelerations that can be reached, and taken back, within the limits.
    const auto taken_back = [](int v, int sign, int by) { return v + sign * by * std::abs(by); };
    task.ends = {between(l.v_low, l.v_high), a(), between(l.v_low, l.v_high), a()};
    const auto& e = task.ends;
    const int after = taken_back(e.v0, 1, e.a0);
    const int before = taken_back(e.v1, -1, e.a1);
    if (std::max(after, before) > l.v_high || std::min(after, before) < l.v_low) continue;
    const double v = Lattice::kUnit;
    const double s = Lattice::kStep;
    task.scaled = {e.v0 * v,    e.a0 * s,     e.v1 * v,    e.a1 * s,
                   l.v_low * v, l.v_high * v, l.a_low * s, l.a_high * s};
    return task;
  }
}

// All that a profile has to keep, found from its pieces.
void check_profile(const AxisProfile& profile, const AxisState& from, const AxisState& to,
                   const AxisLimits& limits) {
  const double slack = 1e-9;
  AxisState at = from;
  double extreme_v[2] = {from.velocity, from.velocity};
  for (int i = 0; i < profile.count(); ++i) {
    const AxisPiece piece = profile.piece(i);
    REQUIRE(std::abs(piece.jerk) <= limits.jerk * (1 + slack));
    REQUIRE(piece.duration > 0.0);
    for (int k = 1; k <= 16; ++k) {  // integrated by hand
      const double t = piece.duration * k / 16;
      const double v = at.velocity + t * at.acceleration + t * t * piece.jerk / 2;
      const double a = at.acceleration + t * piece.jerk;
      extreme_v[0] = std::min(extreme_v[0], v);
      extreme_v[1] = std::max(extreme_v[1], v);
      REQUIRE(a <= limits.acceleration_high * (1 + slack) + slack);
      REQUIRE(a >= limits.acceleration_low * (1 + slack) - slack);
    }
    const double t = piece.duration;
    at = {at.position + t * at.velocity + t * t * at.acceleration / 2 + t * t * t * piece.jerk / 6,
          at.velocity + t * at.acceleration + t * t * piece.jerk / 2,
          at.acceleration + t * piece.jerk};
  }
  REQUIRE(extreme_v[1] <= limits.velocity_high * (1 + slack) + slack);
  REQUIRE(extreme_v[0] >= limits.velocity_low * (1 + slack) - slack);
  const double way = 1.0 + profile.duration() * limits.velocity_high;
  REQUIRE(std::abs(at.position - to.position) < 1e-9 * way);
  REQUIRE(std::abs(at.velocity - to.velocity) < 1e-9);
  REQUIRE(std::abs(at.acceleration - to.acceleration) < 1e-8);
}

}  // namespace

TEST_CASE("from rest to rest the least time is the closed form, in each of its cases") {
  struct Case {
    double d, v, a, j, time;
  };
  // Worked out by hand: all seven pieces; no cruise; neither cruise nor a hold, 4 (d / 2j)^(1/3);
  // cruise, but no hold.
  const std::vector<Case> cases{{2.0, 1.0, 2.0, 8.0, 2.0 + 0.5 + 0.25},
                                {0.5, 1.0, 1.0, 8.0, 0.125 + std::sqrt(0.125 * 0.125 + 2.0)},
                                {0.25, 9.0, 9.0, 16.0, 4.0 * std::cbrt(0.25 / 32.0)},
                                {3.0, 1.0, 9.0, 4.0, 3.0 + 1.0}};
  for (const Case& c : cases)
    for (const double sign : {1.0, -1.0}) {
      CHECK(rest_to_rest_time(sign * c.d, c.v, c.a, c.j) == Approx(c.time).epsilon(1e-14));
      const AxisState to{sign * c.d, 0.0, 0.0};
      const JerkLimited quick({}, to, symmetric_limits(c.v, c.a, c.j));
      CHECK(quick.shortest() == Approx(c.time).epsilon(1e-14));
      check_profile(quick.profile(quick.shortest()), {}, to, symmetric_limits(c.v, c.a, c.j));
      // A velocity at the start too small to matter goes by the general search.
      const JerkLimited general({0.0, sign * 1e-14, 0.0}, to, symmetric_limits(c.v, c.a, c.j));
      CHECK(general.shortest() == Approx(c.time).epsilon(1e-11));
    }
  // With limits that differ up and down, and neither jerk nor hold to speak of: a triangle of
  // velocities, with (1/a + 1/b) v^2 / 2 = d.
  const AxisLimits uneven{-9.0, 9.0, -4.0, 2.0, 1e7};
  const JerkLimited triangle({}, {1.5, 0.0, 0.0}, uneven);
  const double top = std::sqrt(2.0 * 1.5 / (1.0 / 2.0 + 1.0 / 4.0));
  CHECK(triangle.shortest() == Approx(top / 2.0 + top / 4.0).epsilon(1e-5));
}

TEST_CASE(
    "no motion gets farther in a fixed time, nor is there one at times that count as impossible") {
  RandomStream random(61);
  int compared = 0;
  for (int i = 0; i < 60; ++i) {
    const LatticeTask task = random_lattice_task(random);
    const auto up = task.farthest(1.0, kSteps);
    const auto down = task.farthest(-1.0, kSteps);
    const PossibleTimes times = possible_times(task.scaled);
    for (int n = 0; n <= kSteps; ++n) {
      const auto k = static_cast<std::size_t>(n);
      if (std::isnan(up[k])) continue;
      const double time = n * Lattice::kStep;
      REQUIRE(time >= times.first.time - 1e-9);
      if (times.has_gap)
        REQUIRE((time <= times.before_gap.time + 1e-9 || time >= times.after_gap.time - 1e-9));
      const Climb highest = farthest(task.scaled, time);
      const Climb lowest = farthest(task.scaled.mirrored(), time);
      CHECK(highest.phases.duration() == Approx(time).margin(1e-9));
      REQUIRE(highest.displacement >= up[k] - 1e-9);
      REQUIRE(-lowest.displacement <= down[k] + 1e-9);
      // Nor is the lattice much worse: half a step of jerk at each switch.
      REQUIRE(highest.displacement - up[k] < 2.0 * Lattice::kStep * Lattice::kStep * (0.2 + time));
      ++compared;
    }
  }
  CHECK(compared > 300);
}

TEST_CASE(
    "no motion on a lattice takes less than the least time, or a time that counts as impossible") {
  RandomStream random(62);
  int reached = 0;
  for (int i = 0; i < 60; ++i) {
    const LatticeTask task = random_lattice_task(random);
    const auto up = task.farthest(1.0, kSteps);
    const auto down = task.farthest(-1.0, kSteps);
    const ScaledEnds& e = task.scaled;
    for (int k = 0; k < 6; ++k) {
      const double distance = random.uniform(-2.0, 2.0) * std::pow(10.0, random.uniform(-2.0, 0.0));
      const AxisLimits limits{e.v_low, e.v_high, e.a_low, e.a_high, 1.0};
      const JerkLimited axis({0.0, e.v0, e.a0}, {distance, e.v1, e.a1}, limits);
      check_profile(axis.profile(axis.shortest()), {0.0, e.v0, e.a0}, {distance, e.v1, e.a1},
                    limits);
      for (std::size_t n = 0; n <= kSteps; ++n) {
        const double time = static_cast<double>(n) * Lattice::kStep;
        if (std::isnan(up[n]) || distance > up[n] || distance < down[n]) continue;
        ++reached;
        REQUIRE(axis.shortest() <= time + 1e-9);
        REQUIRE(axis.possible_from(time) == time);
      }
    }
  }
  CHECK(reached > 500);
}

TEST_CASE("from any state to any state, in the least time and in longer ones, every limit holds") {
  RandomStream random(63);
  for (int i = 0; i < 3000; ++i) {
    const auto decade = [&] { return std::pow(10.0, random.uniform(-1.5, 1.5)); };
    AxisLimits limits = symmetric_limits(decade(), decade(), decade());
    if (random.index(2) == 0) limits.velocity_low = -decade();
    if (random.index(2) == 0) limits.acceleration_low = -decade();
    const auto state = [&](bool target) {
      while (true) {
        AxisState s{random.uniform(-2.0, 2.0),
                    random.uniform(limits.velocity_low, limits.velocity_high),
                    random.uniform(limits.acceleration_low, limits.acceleration_high)};
        if (random.index(3) == 0) s.acceleration = 0.0;
        const AxisState seen_from_end{s.position, s.velocity,
                                      target ? s.acceleration : -s.acceleration};
        if (target_breach(seen_from_end, limits).empty()) return s;
      }
    };
    const AxisState from = state(false);
    const AxisState to = state(true);
    const JerkLimited axis(from, to, limits);
    check_profile(axis.profile(axis.shortest()), from, to, limits);
    for (const double factor : {1.01, 1.5, 4.0}) {
      const double time = axis.possible_from(factor * axis.shortest());
      REQUIRE(time >= factor * axis.shortest());
      const AxisProfile profile = axis.profile(time);
      CHECK(profile.duration() == Approx(time).epsilon(1e-9));
      check_profile(profile, from, to, limits);
    }
  }
}

TEST_CASE("what moves towards a moving target cannot always wait") {
  // At speed 1 at both ends, half a metre apart: in 0.5 s, or after turning back.
  const AxisLimits limits = symmetric_limits(1.0, 1.0, 1.0);
  const JerkLimited axis({0.0, 1.0, 0.0}, {0.5, 1.0, 0.0}, limits);
  CHECK(axis.shortest() == Approx(0.5));
  const double later = axis.possible_from(0.8);
  CHECK(later > 4.0);
  // It turns back to where a cruise at -1 of no length leads half a metre on, and not sooner.
  check_profile(axis.profile(later), {0.0, 1.0, 0.0}, {0.5, 1.0, 0.0}, limits);
  CHECK(axis.possible_from(later + 1.0) == Approx(later + 1.0));
}

TEST_CASE("a joint that starts outside of its limits comes back within them first") {
  const AxisLimits limits = symmetric_limits(1.0, 2.0, 10.0);
  for (const AxisState& from :
       {AxisState{0.0, 1.5, 0.0}, AxisState{0.0, 0.9, 2.0}, AxisState{0.0, 0.0, 3.0},
        AxisState{0.0, -2.0, -4.0}, AxisState{0.0, 1.2, -2.5}, AxisState{0.0, 0.5, -8.0}}) {
    const JerkLimited axis(from, {1.0, 0.0, 0.0}, limits);
    const AxisProfile profile = axis.profile(axis.shortest());
    CHECK(std::abs(profile.end().position - 1.0) < 1e-12);
    CHECK(std::abs(profile.end().velocity) < 1e-12);
    CHECK(std::abs(profile.end().acceleration) < 1e-12);
    // What is too much never grows, but for what accelerations at the start add.
    const double excess =
        std::max(std::abs(from.velocity),
                 std::abs(from.velocity + from.acceleration * std::abs(from.acceleration) / 20.0));
    bool within = false;
    for (int i = 0; i <= 1000; ++i) {
      const AxisState s = profile.at(profile.duration() * i / 1000);
      CHECK(std::abs(s.velocity) <= std::max(excess, 1.0) + 1e-9);
      const bool now = std::abs(s.velocity) <= 1.0 + 1e-9 && std::abs(s.acceleration) <= 2.0 + 1e-9;
      if (i > 700) CHECK(now);
      within = within || now;
    }
    CHECK(within);
  }
}

TEST_CASE("small and large numbers, and nothing to do") {
  const AxisLimits limits = symmetric_limits(2.0, 8.0, 80.0);
  const JerkLimited none({0.3, 0.0, 0.0}, {0.3, 0.0, 0.0}, limits);
  CHECK(none.shortest() == 0.0);
  CHECK(none.profile(2.0).duration() == 2.0);
  CHECK(none.profile(2.0).at(1.0).position == 0.3);
  for (const double d : {1e-12, 1e-6, 1e3, 1e6}) {
    const JerkLimited axis({}, {d, 0.0, 0.0}, limits);
    CHECK(axis.profile(axis.shortest()).end().position == Approx(d).epsilon(1e-12));
    CHECK(axis.profile(2.0 * axis.shortest()).end().position == Approx(d).epsilon(1e-12));
  }
  AxisLimits endless = limits;
  endless.velocity_low = -INFINITY;
  endless.velocity_high = INFINITY;
  const JerkLimited fast({0.0, 0.1, 0.0}, {100.0, 0.0, 0.0}, endless);
  check_profile(fast.profile(fast.shortest()), {0.0, 0.1, 0.0}, {100.0, 0.0, 0.0}, endless);
}

TEST_CASE("limits and targets that make no sense are refused") {
  CHECK_THROWS_WITH(JerkLimited({}, {}, symmetric_limits(0.0, 1.0, 1.0)),
                    Contains("velocity limits are below and above zero"));
  CHECK_THROWS_WITH(JerkLimited({}, {}, symmetric_limits(1.0, 1.0, -1.0)),
                    Contains("the jerk limit is above zero"));
  CHECK_THROWS_WITH(JerkLimited({}, {0.0, 1.5, 0.0}, symmetric_limits(1.0, 1.0, 1.0)),
                    Contains("its velocity of 1.5 is above the limit of 1"));
  CHECK_THROWS_WITH(JerkLimited({}, {0.0, -0.9, 0.8}, symmetric_limits(1.0, 1.0, 1.0)),
                    Contains("velocity before it took up that acceleration of -1.22"));
}

TEST_CASE("a control loop may ask anew in every cycle: nothing is allocated") {
  const AxisLimits limits = symmetric_limits(2.0, 8.0, 80.0);
  AxisState state{0.0, 0.5, -1.0};
  double sum = 0.0;
  const long before = allocations();
  for (int i = 0; i < 100; ++i) {
    const JerkLimited axis(state, {0.01 * i, 0.2, 0.0}, limits);
    const AxisProfile profile = axis.profile(axis.possible_from(axis.shortest() * 1.2));
    state = profile.at(0.004);
    sum += state.position;
  }
  CHECK(allocations() == before);
  CHECK(std::isfinite(sum));
}

TEST_CASE(
    "jerk-limited: from rest to rest in the least time or any longer one, limits of any size") {
  RandomStream random(77);
  const auto size = [&](double low, double high) {
    return std::pow(10.0, random.uniform(low, high));
  };
  for (int i = 0; i < 20000; ++i) {
    const double v = size(-2, 2), a = size(-2, 3), j = size(-1, 4), way = size(-6, 1);
    const double sign = random.index(2) == 0 ? 1.0 : -1.0;
    const JerkLimited move({0, 0, 0}, {sign * way, 0, 0}, symmetric_limits(v, a, j));
    const double time = move.shortest() * (random.index(2) == 0 ? 1.0 : size(0, 3));
    const AxisProfile profile = move.profile(time);
    bool kept = std::abs(profile.end().position - sign * way) < 1e-9 * way &&
                std::abs(profile.duration() - time) < 1e-9 * time &&
                std::abs(profile.end().velocity) < 1e-9 * way / time;
    for (int k = 0; k < profile.count(); ++k) {
      const AxisPiece piece = profile.piece(k);
      const AxisState end = advanced(piece.start, piece.jerk, piece.duration);
      kept = kept && std::abs(piece.jerk) <= j * (1 + 1e-12) &&
             std::abs(end.velocity) <= v * (1 + 1e-9) &&
             std::abs(end.acceleration) <= a * (1 + 1e-9);
    }
    CHECK(kept);
  }
}
