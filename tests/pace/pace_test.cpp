#include "elbowroom/pace/pace.hpp"
#include "elbowroom/model/curve_ranges.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "support/allocations.hpp"
#include "support/cells.hpp"
#include "support/demo.hpp"
#include "support/motions.hpp"

using namespace er;
using namespace er::test;
using Catch::StartsWith;

TEST_CASE("a quintic's duration is that of its textbook peaks") {
  // Limits of planar_arm(): 2 rad/s, 8 rad/s^2, 80 rad/s^3.
  const Arm arm = planar_arm();
  const auto paced = pace({values({0, 0}), values({2.0, 0.5})}, arm);
  REQUIRE(paced);
  const double by_velocity = 1.875 * 2.0 / 2.0;
  const double by_acceleration = std::sqrt(10.0 / std::sqrt(3.0) * 2.0 / 8.0);
  const double by_jerk = std::cbrt(60.0 * 2.0 / 80.0);
  CHECK(paced->motion.duration() ==
        Approx(std::max({by_velocity, by_acceleration, by_jerk})).epsilon(1e-14));
  CHECK(paced->peaks.velocity.share == Approx(1.0).epsilon(1e-9));
  const JointState end = paced->motion.at(paced->motion.duration());
  CHECK((end.position - values({2.0, 0.5})).norm() < 1e-12);
  CHECK(end.velocity.norm() < 1e-12);
  CHECK(end.acceleration.norm() < 1e-11);
}

TEST_CASE("a trapezoid's duration is the closed form, with and without a cruise") {
  const Arm arm = planar_arm();
  // Cruise: d / v + v / a.
  const auto far =
      pace({values({0, 0}), values({2.0, -1.0})}, arm, {.profile = Profile::trapezoid});
  CHECK(far->motion.duration() == Approx(2.0 / 2.0 + 2.0 / 8.0).epsilon(1e-14));
  // Too short to reach top speed: 2 sqrt(d / a).
  const auto near =
      pace({values({0, 0}), values({0.1, 0.02})}, arm, {.profile = Profile::trapezoid});
  CHECK(near->motion.duration() == Approx(2.0 * std::sqrt(0.1 / 8.0)).epsilon(1e-14));
  // Exactly reaching it: d = v^2 / a.
  const auto edge = pace({values({0, 0}), values({0.5, 0})}, arm, {.profile = Profile::trapezoid});
  CHECK(edge->motion.duration() == Approx(0.5).epsilon(1e-9));
}

TEST_CASE("no limit is exceeded, and the joint that needs longest uses all of one") {
  const Arm arm = wrist_arm();
  RandomStream random(81);
  for (int i = 0; i < 200; ++i) {
    std::vector<Posture> waypoints;
    for (int k = 0; k < 3; ++k)
      waypoints.push_back(random_posture(random, arm) * std::pow(10.0, -random.index(5)));
    const PaceOptions options{
        .profile = random.index(2) == 0 ? Profile::quintic : Profile::trapezoid,
        .speed = random.uniform(0.2, 1.0)};
    const auto paced = pace(waypoints, arm, options);
    REQUIRE(paced);
    CHECK(paced->stops == 1);
    double most = 0.0;
    for (int k = 0; k < arm.dof(); ++k) {
      const double v = sampled_peak(paced->motion, k, 1) / (2.0 * options.speed);
      const double a = sampled_peak(paced->motion, k, 2) / 8.0;
      const double j =
          options.profile == Profile::quintic ? sampled_peak(paced->motion, k, 3) / 80.0 : 0.0;
      CHECK(std::max({v, a, j}) <= 1.0 + 1e-9);
      most = std::max({most, v, a, j});
    }
    CHECK(most > 0.9999);
    // The motion never leaves the straight joint line between waypoints.
    for (int s = 0; s <= 50; ++s) {
      const Posture q = paced->motion.at(paced->motion.duration() * s / 50).position;
      double nearest = 1e9;
      for (std::size_t w = 0; w + 1 < waypoints.size(); ++w) {
        const Posture way = waypoints[w + 1] - waypoints[w];
        const double t = std::clamp((q - waypoints[w]).dot(way) / way.squaredNorm(), 0.0, 1.0);
        nearest = std::min(nearest, (q - waypoints[w] - t * way).norm());
      }
      CHECK(nearest < 1e-9);
    }
  }
}

TEST_CASE("position and velocity are continuous over the whole motion") {
  const Arm arm = wrist_arm();
  RandomStream random(82);
  for (const Profile profile : {Profile::quintic, Profile::trapezoid}) {
    const auto paced = pace(
        {random_posture(random, arm), random_posture(random, arm), random_posture(random, arm)},
        arm, {.profile = profile});
    const auto& pieces = paced->motion.pieces();
    for (std::size_t i = 0; i + 1 < pieces.size(); ++i)
      for (std::size_t k = 0; k < 6; ++k)
        for (int order = 0; order <= (profile == Profile::quintic ? 2 : 1); ++order)
          CHECK(value_at(pieces[i].joints[k], pieces[i].duration, order) ==
                Approx(value_at(pieces[i + 1].joints[k], 0.0, order)).margin(1e-9));
  }
}

TEST_CASE("reported peaks are those that sampling finds") {
  const Arm arm = wrist_arm();
  RandomStream random(83);
  const auto paced = pace({random_posture(random, arm), random_posture(random, arm)}, arm);
  double v = 0.0, a = 0.0;
  for (int k = 0; k < 6; ++k) {
    v = std::max(v, sampled_peak(paced->motion, k, 1, 2000) / 2.0);
    a = std::max(a, sampled_peak(paced->motion, k, 2, 2000) / 8.0);
  }
  CHECK(paced->peaks.velocity.share == Approx(v).epsilon(1e-5));
  CHECK(paced->peaks.acceleration.share == Approx(a).epsilon(1e-5));
  CHECK_FALSE(leaves_ranges(paced->motion, arm));
  const Motion wild({{1.0, Quintics(6, Quintic{0, 14.0, -14.0, 0, 0, 0})}});
  const auto left = leaves_ranges(wild, arm);
  REQUIRE(left);
  CHECK(left->what == "joint base_to_l1 would be at 200.54 deg, limit 171.89 deg");
}

TEST_CASE("a straight tool move is stretched until it keeps every limit") {
  const Arm arm = wrist_arm();
  const CellQuery query(Cell::build({.arms = {arm}}), "six");
  const Posture start = values({0.2, 0.3, 0.4, 0.3, 0.7, 0.1});
  const Pose from = tool_pose(arm, arm.tool(""), start);
  const auto line = follow_line(
      query, start, Target{}.place("", {from.rotation, from.position + Vector3(0, 0.2, 0)}));
  REQUIRE(line);
  for (const double speed : {1.0, 0.1}) {
    const auto paced = pace(*line, query, {.speed = speed});
    REQUIRE(paced);
    double most = 0.0;
    for (int k = 0; k < 6; ++k)
      most = std::max({most, sampled_peak(paced->motion, k, 1) / (2.0 * speed),
                       sampled_peak(paced->motion, k, 2) / 8.0,
                       sampled_peak(paced->motion, k, 3) / 80.0});
    CHECK(most <= 1.0 + 1e-9);
    CHECK(most > 0.999);
  }
}

TEST_CASE("what cannot be paced") {
  const Arm arm = planar_arm();
  const Posture q = values({0.5, 0.5});
  CHECK_THROWS_WITH(pace(std::vector<Posture>{}, arm),
                    "a motion needs two different waypoints, found none");
  CHECK_THROWS_WITH(pace({q}, arm), "a motion needs two different waypoints, found only one");
  CHECK_THROWS_WITH(pace({q, q, q}, arm), "a motion needs two different waypoints, found only one");
  CHECK_THROWS_WITH(pace({q, values({1.0})}, arm), StartsWith("waypoint 2 has 1 value"));
  CHECK_THROWS_WITH(pace({q, values({1.0, 1.0})}, arm, {.speed = 1.5}),
                    "the speed must be above 0 and at most 100 %, found 150 %");
  const auto out = pace({q, values({1.0, 4.0})}, arm);
  REQUIRE_FALSE(out);
  CHECK(out.reason().text ==
        "no: at waypoint 2: joint upper_to_fore would be at 229.18 deg, limit 171.89 deg");
  ArmDescription d{.name = "a",
                   .links = {{.name = "base"}, turning("one", {0, 0, 0}, Vector3::UnitZ())}};
  d.links[1].joint.limits.velocity = std::numeric_limits<double>::infinity();
  CHECK_THROWS_WITH(
      pace({values({0.0}), values({1.0})}, Arm::build(d)),
      "joint 'base_to_one' of arm 'a' has no velocity limit, so no time can be put on a path\n"
      "  state it: velocity: 120 deg/s");
  CHECK_THROWS_WITH(profile_named("quintc"),
                    "unknown profile 'quintc'\n  did you mean 'quintic'? known: cubic, quintic, "
                    "trapezoid, jerk-limited, time-optimal");
}

TEST_CASE("repeated waypoints take no time and make no stop") {
  const Arm arm = planar_arm();
  const Posture a = values({0, 0}), b = values({1.0, 0});
  const auto once = pace({a, b}, arm), twice = pace({a, a, b, b}, arm);
  CHECK(twice->motion.duration() == once->motion.duration());
  CHECK(twice->stops == 0);
}

TEST_CASE("sampling a motion takes nothing from the heap") {
  const auto paced = pace({values({0, 0}), values({1.0, 0.5}), values({0, 1.0})}, planar_arm());
  JointState state;
  double sum = 0.0;
  const long before = allocations();
  for (int i = 0; i < 100; ++i) {
    paced->motion.at(0.01 * i, state);
    sum += state.position[0];
  }
  const long after = allocations();
  CHECK(after == before);
  CHECK(sum > 0.0);
}

TEST_CASE("round corners take less time, and the motion is proved as it stands") {
  const CellQuery query(demo_cell(), "teasel");
  const Arm& arm = query.arm();
  const auto route = find_route(query, arm.stance("over_board"), {arm.stance("over_bucket")}, {});
  REQUIRE(route);
  REQUIRE(route->waypoints.size() > 2);
  const auto with_stops = pace(*route, query, {.profile = Profile::time_optimal});
  const auto round = pace(
      *route, query, {.profile = Profile::time_optimal, .corners = CornerBounds{.angle = 5.0_deg}});
  REQUIRE(round);
  CHECK(with_stops->stops == static_cast<int>(route->waypoints.size()) - 2);
  CHECK(with_stops->corners.empty());
  CHECK(round->stops == 0);
  CHECK(round->rounded() == static_cast<int>(round->corners.size()));
  CHECK(round->motion.duration() < 0.85 * with_stops->motion.duration());
  CHECK(round->clearance == route->clearance);
  for (int i = 0; i <= 400; ++i)
    CHECK(query.nearest(round->motion.at(round->motion.duration() * i / 400).position).distance >=
          route->clearance);
  CHECK_THAT(round->report(arm), Catch::Contains("round corners: at most") &&
                                     Catch::Contains("is proved to keep 5.0 mm"));
  CHECK_THROWS_WITH(pace(*route, query, {.corners = CornerBounds{.angle = 0.1}}),
                    Catch::Contains("take profile time-optimal"));
  CHECK_THROWS_WITH(pace(route->waypoints, arm,
                         {.profile = Profile::time_optimal, .corners = CornerBounds{.angle = 0.1}}),
                    Catch::Contains("only rounded in a cell"));
  CHECK_THROWS_WITH(pace(*route, query, {.tool_speed = 0.2}),
                    Catch::Contains("knows of no limits of the tool"));
}
