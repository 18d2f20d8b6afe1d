#include "elbowroom/pace/acceleration_limited.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/random.hpp"

using namespace er;

namespace {

// Whether `distance` can be done in `time`, by hand: the farthest up goes up to the velocity at
// which the time is used up, found by halving.
bool can(double v0, double v1, double distance, const AxisLimits& l, double time) {
  const auto farthest = [&](double sign, double up, double down, double most) {
    const double a = sign * v0, b = sign * v1;
    if (time < (b > a ? (b - a) / up : (a - b) / down) * (1 - 1e-12)) return std::nan("");
    double low = std::max(a, b), high = most;
    for (int i = 0; i < 200; ++i) {
      const double top = 0.5 * (low + high);
      ((top - a) / up + (top - b) / down <= time ? low : high) = top;
    }
    const double rest = time - (low - a) / up - (low - b) / down;
    return (low * low - a * a) / (2 * up) + (low * low - b * b) / (2 * down) + low * rest;
  };
  const double up = farthest(1.0, l.acceleration_high, -l.acceleration_low, l.velocity_high);
  const double down = farthest(-1.0, -l.acceleration_low, l.acceleration_high, -l.velocity_low);
  return distance <= up && distance >= -down;
}

void check_trapezoids(const AxisProfile& profile, double v0, const AxisState& to,
                      const AxisLimits& limits) {
  double v = v0, p = 0.0;
  for (int i = 0; i < profile.count(); ++i) {
    const AxisPiece piece = profile.piece(i);
    const double a = piece.start.acceleration;
    REQUIRE(piece.jerk == 0.0);
    REQUIRE(a <= limits.acceleration_high * (1 + 1e-9));
    REQUIRE(a >= limits.acceleration_low * (1 + 1e-9));
    p += piece.duration * (v + 0.5 * a * piece.duration);
    v += a * piece.duration;
    REQUIRE(v <= limits.velocity_high + 1e-9);
    REQUIRE(v >= limits.velocity_low - 1e-9);
  }
  CHECK(std::abs(p - to.position) < 1e-9 * (1.0 + profile.duration()));
  CHECK(std::abs(v - to.velocity) < 1e-9);
}

}  // namespace

TEST_CASE(
    "trapezoids between any two velocities are the quickest, and any time that counts as possible "
    "is") {
  RandomStream random(71);
  for (int i = 0; i < 2000; ++i) {
    const auto decade = [&] { return std::pow(10.0, random.uniform(-1.0, 1.0)); };
    AxisLimits limits = symmetric_limits(decade(), decade(), INFINITY);
    if (random.index(2) == 0) limits.velocity_low = -decade();
    if (random.index(2) == 0) limits.acceleration_low = -decade();
    const auto speed = [&] {
      return random.index(4) == 0 ? 0.0 : random.uniform(limits.velocity_low, limits.velocity_high);
    };
    const double v0 = speed();
    const AxisState to{random.uniform(-2.0, 2.0) * decade(), speed(), 0.0};
    const AccelerationLimited axis({0.0, v0, 0.0}, to, limits);
    const double least = axis.shortest();
    check_trapezoids(axis.profile(least), v0, to, limits);
    for (int k = 1; k < 100; ++k)
      REQUIRE_FALSE(can(v0, to.velocity, to.position, limits, least * k / 100.0));
    for (const double factor : {1.001, 1.3, 2.0, 7.0}) {
      const double time = axis.possible_from(factor * least);
      check_trapezoids(axis.profile(time), v0, to, limits);
      if (time == factor * least) continue;
      for (int k = 1; k < 20; ++k)  // none between
        REQUIRE_FALSE(can(v0, to.velocity, to.position, limits,
                          factor * least + (time - factor * least) * k / 20.0));
    }
  }
}

TEST_CASE(
    "trapezoids from rest to rest are the textbook's, and speeds above the limit brake first") {
  const AxisLimits limits = symmetric_limits(2.0, 8.0, INFINITY);
  CHECK(AccelerationLimited({}, {2.0, 0.0, 0.0}, limits).shortest() == Approx(1.25));
  CHECK(AccelerationLimited({}, {-0.1, 0.0, 0.0}, limits).shortest() ==
        Approx(2.0 * std::sqrt(0.1 / 8.0)));
  // From 4 to 2 in a quarter of a second and 0.75 m; then 1 m at 2 and half a metre to stop... and
  // a bit more.
  const AccelerationLimited fast({0.0, 4.0, 0.0}, {3.0, 0.0, 0.0}, limits);
  CHECK(fast.shortest() == Approx(0.25 + (3.0 - 0.75 - 0.25) / 2.0 + 0.25));
  CHECK(fast.profile(fast.shortest()).end().position == Approx(3.0));
}
