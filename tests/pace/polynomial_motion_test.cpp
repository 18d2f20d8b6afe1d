#include "elbowroom/pace/polynomial_motion.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

PolynomialMotion solved(const std::vector<TimedWaypoint>& waypoints,
                        const PolynomialOptions& options) {
  const auto paced = polynomial_motion(waypoints, planar_arm(), options);
  REQUIRE(paced);
  return *paced;
}

// Limits of planar_arm(): 2 rad/s, 8 rad/s^2, 80 rad/s^3.
double sampled_need(const Motion& motion) {
  double need = 0.0;
  for (const CurvePiece& piece : motion.pieces())
    for (const Quintic& c : piece.joints)
      for (int i = 0; i <= 500; ++i) {
        const double t = piece.duration * i / 500;
        need = std::max({need, std::abs(value_at(c, t, 1)) / 2.0, std::abs(value_at(c, t, 2)) / 8.0,
                         std::abs(value_at(c, t, 3)) / 80.0});
      }
  return need;
}

}  // namespace

TEST_CASE("published cubics come out as published") {
  // J. Craig, "Introduction to Robotics", 3rd ed., example 7.1: from 15 to 75 degrees in 3 s, at
  // rest at both ends: 15 + 20 t^2 - 4.44 t^3.
  const auto one = solved(
      {{.position = values({15.0_deg, 0})}, {.position = values({75.0_deg, 0}), .after = 3.0}},
      {.degree = SplineDegree::cubic});
  const Quintic c = one.motion.pieces()[0].joints[0];
  CHECK(to_deg(c[0]) == Approx(15.0));
  CHECK(c[1] == 0.0);
  CHECK(to_deg(c[2]) == Approx(20.0));
  CHECK(to_deg(c[3]) == Approx(-40.0 / 9.0));
  CHECK(to_deg(one.jump.share) == Approx(40.0));
  // Example 7.2: two cubics of the same duration with continuous velocity and acceleration; the
  // book's closed forms.
  const double q0 = 0.1, qv = 0.9, qg = 0.4, t = 0.8;
  const auto two = solved({{.position = values({q0, 0})},
                           {.position = values({qv, 0}), .after = t},
                           {.position = values({qg, 0}), .after = t}},
                          {.degree = SplineDegree::cubic});
  const Quintic first = two.motion.pieces()[0].joints[0], second = two.motion.pieces()[1].joints[0];
  CHECK(first[2] == Approx((12 * qv - 3 * qg - 9 * q0) / (4 * t * t)));
  CHECK(first[3] == Approx((-8 * qv + 3 * qg + 5 * q0) / (4 * t * t * t)));
  CHECK(second[1] == Approx((3 * qg - 3 * q0) / (4 * t)));
  CHECK(second[2] == Approx((-12 * qv + 6 * qg + 6 * q0) / (4 * t * t)));
  CHECK(second[3] == Approx((8 * qv - 5 * qg - 3 * q0) / (4 * t * t * t)));
}

TEST_CASE("quintics keep velocities and accelerations that are given at both ends") {
  const auto one = solved({{.position = values({0.1, 0}),
                            .velocity = values({0.3, -0.2}),
                            .acceleration = values({-1.0, 0.5})},
                           {.position = values({0.8, 0.4}),
                            .velocity = values({0.0, 0.6}),
                            .acceleration = values({0.7, 0}),
                            .after = 1.7}},
                          {});
  const CurvePiece& piece = one.motion.pieces()[0];
  const double expected[2][2][3] = {{{0.1, 0.3, -1.0}, {0.8, 0.0, 0.7}},
                                    {{0.0, -0.2, 0.5}, {0.4, 0.6, 0.0}}};
  for (std::size_t k = 0; k < 2; ++k)
    for (int end = 0; end < 2; ++end)
      for (int order = 0; order < 3; ++order)
        CHECK(value_at(piece.joints[k], end * 1.7, order) ==
              Approx(expected[k][end][order]).margin(1e-12));
}

TEST_CASE("durations that are left out are the shortest that keep every limit") {
  // From rest to rest: the textbook peaks, rounded up to a microsecond.
  const std::vector<TimedWaypoint> ends{{.position = values({0, 0})},
                                        {.position = values({2.0, 0.5})}};
  const double cubic = solved(ends, {.degree = SplineDegree::cubic}).motion.duration();
  CHECK(cubic == Approx(std::max({1.5 * 2.0 / 2.0, std::sqrt(6.0 * 2.0 / 8.0),
                                  std::cbrt(12.0 * 2.0 / 80.0)}))
                     .margin(2e-6));
  const double quintic = solved(ends, {}).motion.duration();
  CHECK(quintic == Approx(1.875).margin(2e-6));
  CHECK(solved(ends, {.speed = 0.5}).motion.duration() == Approx(3.75).margin(4e-6));

  const std::vector<TimedWaypoint> many{{.position = values({0, 0})},
                                        {.position = values({1.0, 0.5})},
                                        {.position = values({1.2, -0.5})},
                                        {.position = values({-0.3, 0.2})}};
  for (const OnTheWay way : {OnTheWay::smooth, OnTheWay::stop})
    for (const SplineDegree degree : {SplineDegree::cubic, SplineDegree::quintic}) {
      const auto paced = solved(many, {.degree = degree, .on_the_way = way});
      CHECK(sampled_need(paced.motion) <= 1 + 1e-6);
      CHECK_FALSE(polynomial_breach(paced, planar_arm()));
      // None of them could be a hundredth shorter by itself.
      for (std::size_t i = 0; i < 3; ++i) {
        auto given = many;
        for (std::size_t k = 0; k < 3; ++k)
          given[k + 1].after = paced.durations[k] * (k == i ? 0.99 : 1.0);
        CHECK(sampled_need(solved(given, {.degree = degree, .on_the_way = way}).motion) > 1.0);
      }
      if (way == OnTheWay::smooth) continue;
      for (std::size_t i = 0; i + 1 < 3; ++i)
        CHECK(std::abs(value_at(paced.motion.pieces()[i].joints[0], paced.durations[i], 1)) <
              1e-12);
    }
  // Some given, some not.
  auto mixed = many;
  mixed[2].after = 3.0;
  const auto paced = solved(mixed, {});
  CHECK(paced.durations[1] == 3.0);
  CHECK(paced.chosen == std::vector<bool>{true, false, true});
  CHECK_THAT(paced.summary(), Contains("2 of 3 durations chosen"));
}

TEST_CASE("overshoot is found and said, and ranges and limits that are broken are a no") {
  const Arm arm = planar_arm();
  const auto over = solved({{.position = values({0, 0}), .velocity = values({1.0, 0})},
                            {.position = values({0.1, 0}), .after = 2.0}},
                           {.degree = SplineDegree::cubic});
  REQUIRE(over.overshoots.size() == 1);
  double highest = 0.0;
  for (int i = 0; i <= 10000; ++i)
    highest = std::max(highest, over.motion.at(2.0 * i / 10000).position[0]);
  CHECK(over.overshoots[0].beyond == Approx(highest - 0.1).margin(1e-6));
  CHECK(over.overshoots[0].joint == 0);
  CHECK_THAT(over.notes(arm), Contains("beyond its values at both ends of stretch 1, at 0."));

  const auto fast =
      solved({{.position = values({0, 0})}, {.position = values({2.0, 0}), .after = 0.5}}, {});
  const auto breach = polynomial_breach(fast, arm);
  REQUIRE(breach);
  CHECK(breach->cause == Cause::too_fast);
  CHECK_THAT(breach->text,
             Contains("would need 429.7 deg/s of velocity at 0.250 s, limit 114.6 deg/s"));
  CHECK(breach->remedies.at(0).text == "every stretch 3.750 times as long, 1.875 s in all");

  const auto beyond = solved({{.position = values({3.0, 0}), .velocity = values({1.5, 0})},
                              {.position = values({3.0, 0}), .after = 2.0}},
                             {});
  REQUIRE(polynomial_breach(beyond, arm));
  CHECK(polynomial_breach(beyond, arm)->cause == Cause::beyond_limits);
  // No duration makes this velocity less.
  const auto never = polynomial_motion(
      {{.position = values({0, 0}), .velocity = values({2.5, 0})}, {.position = values({1, 0})}},
      arm);
  REQUIRE_FALSE(never);
  CHECK_THAT(never.reason().text, Contains("however long it takes"));
}

TEST_CASE("the tables say how it is worked out") {
  const auto paced = solved({{.position = values({0, 0})},
                             {.position = values({1.0, 0}), .after = 1.0},
                             {.position = values({0.5, 0}), .after = 2.0}},
                            {.degree = SplineDegree::cubic});
  const std::string text = coefficient_tables(paced, planar_arm());
  CHECK_THAT(text,
             Contains("stays where it is: joint_2 at 0 deg") || Contains("stays where it is:"));
  CHECK_THAT(text, Contains("acceleration is continuous at waypoint 2"));
  CHECK_THAT(text, Contains("2 v1 + 6 v2 + 1 v3"));
  CHECK_THAT(text, Contains("stretch 2, from 1 s, T = 2 s"));
  CHECK_THAT(text, Contains("c1 vanishes, for the velocity at its beginning is zero"));
}

TEST_CASE("waypoints that make no sense are refused with their names") {
  const Arm arm = planar_arm();
  const auto ask = [&](const std::vector<TimedWaypoint>& waypoints,
                       const PolynomialOptions& options = {}) {
    return static_cast<bool>(polynomial_motion(waypoints, arm, options));
  };
  const TimedWaypoint home{.name = "home", .position = values({0, 0})};
  TimedWaypoint there{.name = "there", .position = values({1, 0})};
  CHECK_THROWS_WITH(ask({home}), Contains("a motion needs two waypoints, found only one"));
  CHECK_THROWS_WITH(ask({home, home}),
                    Contains("waypoint 2 (home) is where the waypoint before is"));
  there.after = -1.0;
  CHECK_THROWS_WITH(ask({home, there}), Contains("waypoint 2 (there) is to be reached after -1 s"));
  there.after = 0.0;
  CHECK_THROWS_WITH(ask({home, there}), Contains("after 0 s"));
  there.after = 1.0;
  CHECK_THROWS_WITH(ask({there, home}), Contains("waypoint 1 (there) is the first"));
  there.velocity = values({NAN, 0});
  CHECK_THROWS_WITH(ask({home, there}),
                    Contains("the velocity at waypoint 2 (there) has a value that is no finite"));
  there.velocity = values({0.0});
  CHECK_THROWS_WITH(ask({home, there}), Contains("has 1 value, the arm has 2"));
  there.velocity.reset();
  there.acceleration = values({0, 0});
  CHECK_THROWS_WITH(ask({home, there}, {.degree = SplineDegree::cubic}),
                    Contains("a cubic cannot be given an acceleration"));
  CHECK_THROWS_WITH(degree_named("quartic"), Contains("quartic"));
  there.acceleration.reset();
  there.position = values({9, 0});
  CHECK_FALSE(ask({home, there}));
}
