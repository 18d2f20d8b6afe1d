// Limits that differ by the way a joint moves or accelerates: lifts that come down faster than they
// go up, axes that brake harder than they start.
#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/spline.hpp"
#include "elbowroom/pace/jerk_limited_path.hpp"
#include "elbowroom/pace/pace.hpp"
#include "elbowroom/pace/state_move.hpp"
#include "elbowroom/pace/time_optimal.hpp"
#include "elbowroom/rehearse/audit_motion.hpp"
#include "support/cells.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

const WayLimits kSpeed{-1.2, 0.6};
const WayLimits kPush{-4.0, 2.0};

// Two joints in a plane, of which the first differs by the way.
Arm uneven_arm(const WayLimits& speed = kSpeed, const WayLimits& push = kPush) {
  ArmDescription description = planar_arm().description();
  for (Link& link : description.links) {
    link.joint.limits.velocity = 3.0;
    link.joint.limits.acceleration = 12.0;
    link.joint.limits.jerk = 50.0;
  }
  description.links[1].joint.limits.velocity_ways = speed;
  description.links[1].joint.limits.acceleration_ways = push;
  return Arm::build(std::move(description));
}

// From rest to rest over `way` by a trapezoid.
double trapezoid_time(double way, double speed, double rise, double fall) {
  const double uneven = 1.0 / rise + 1.0 / fall;
  const double top = std::min(speed, std::sqrt(2.0 * way / uneven));
  return way / top + 0.5 * top * uneven;
}

// The largest share of a limit of the way that is gone, at many moments.
double sampled_use(const Motion& motion, const Limits& limits) {
  double most = 0.0;
  for (const CurvePiece& piece : motion.pieces())
    for (int i = 0; i <= 200; ++i) {
      JointState state;
      state_in(piece, piece.duration * i / 200.0, state);
      for (Eigen::Index k = 0; k < state.position.size(); ++k)
        most = std::max({most, limits.velocity_of(k).share_of(state.velocity[k]),
                         limits.acceleration_of(k).share_of(state.acceleration[k])});
    }
  return most;
}

CellQuery query_of(const Arm& arm) { return {Cell::build({.arms = {arm}}), arm.name()}; }

}  // namespace

TEST_CASE("ways: what holds either way, and each way, also of joints that follow") {
  const Arm arm = uneven_arm();
  CHECK(arm.limits().velocity[0] == 0.6);
  CHECK(arm.limits().acceleration[0] == 2.0);
  CHECK(arm.limits().velocity_of(0).low == -1.2);
  CHECK(arm.limits().acceleration_of(0).low == -4.0);
  CHECK(arm.limits().velocity_of(1).low == -3.0);
  REQUIRE(arm.limits_of(0).velocity_ways);
  CHECK(arm.limits_of(0).velocity_ways->high == 0.6);
  CHECK_FALSE(arm.limits_of(1).velocity_ways);
  // One that follows twice as fast the other way round, and may do less.
  ArmDescription description = arm.description();
  Link rod = turning("rod", {0, 0, 0.1}, Vector3::UnitZ());
  rod.joint.limits.velocity_ways = WayLimits{-1.0, 5.0};
  rod.joint.follow = {description.links[1].joint.name, -2.0, 0.0};
  rod.parent = "base";
  description.links.push_back(rod);
  const Arm tied = Arm::build(description);
  CHECK(tied.limits().velocity_of(0).high == Approx(0.5));  // the rod goes down at 1
  CHECK(tied.limits().velocity_of(0).low == Approx(-1.2));
  for (const WayLimits& wrong : {WayLimits{0.5, 1.0}, WayLimits{-1.0, 0.0}, WayLimits{-1.0, -2.0}})
    CHECK_THROWS_WITH(uneven_arm(wrong), Contains("from below zero to above zero"));
}

TEST_CASE("ways: straight lines up and down take the time of their closed forms") {
  const Arm arm = uneven_arm();
  for (const double way : {0.05, 0.3, 1.4}) {
    const Posture low = values({0.0, 0.0});
    const Posture high = values({way, 0.1});
    const double up = trapezoid_time(way, 0.6, 2.0, 4.0);
    const double down = trapezoid_time(way, 1.2, 4.0, 2.0);
    for (const Profile profile : {Profile::trapezoid, Profile::time_optimal}) {
      INFO(name_of(profile) << ", " << way);
      const auto rising = pace({low, high}, arm, {.profile = profile});
      const auto sinking = pace({high, low}, arm, {.profile = profile});
      REQUIRE(rising);
      REQUIRE(sinking);
      CHECK(rising->motion.duration() == Approx(up).epsilon(1e-9));
      CHECK(sinking->motion.duration() == Approx(down).epsilon(1e-9));
    }
    for (const Profile profile : kAllProfiles) {
      INFO(name_of(profile) << ", " << way);
      for (const bool rises : {true, false}) {
        const auto paced =
            pace({rises ? low : high, rises ? high : low}, arm, {.profile = profile});
        REQUIRE(paced);
        CHECK(sampled_use(paced->motion, arm.limits()) <= 1 + 1e-9);
        CHECK(std::max(paced->peaks.velocity.share, paced->peaks.acceleration.share) ==
              Approx(sampled_use(paced->motion, arm.limits())).epsilon(1e-3));
      }
    }
  }
}

TEST_CASE("ways: jerk-limited lines as one joint alone, and all joints from state to state") {
  const Arm arm = uneven_arm();
  const double way = 0.9;
  const JerkLimited alone({}, {-way, 0.0, 0.0}, {-1.2, 1.2, -4.0, 2.0, 50.0});
  const auto paced =
      pace({values({way, 0.0}), values({0.0, 0.0})}, arm, {.profile = Profile::jerk_limited});
  REQUIRE(paced);
  CHECK(paced->motion.duration() == Approx(alone.shortest()).epsilon(1e-9));
  const Posture rest = values({0.0, 0.0});
  const JointState from{values({way, 0.0}), rest, rest, {}};
  const JointState to{rest, rest, rest, {}};
  CHECK(StateMove(from, to, axis_limits(arm.limits())).duration() ==
        Approx(alone.shortest()).epsilon(1e-9));
  CHECK(StateMove(to, from, axis_limits(arm.limits())).duration() > 1.3 * alone.shortest());
}

TEST_CASE("ways: curved paths keep every way's limit, and gain by the wider one") {
  RandomStream random(931);
  const int rounds = kSanitized ? 2 : 12;
  for (int n = 0; n < rounds; ++n) {
    std::vector<SplineKnot> knots;
    for (int i = 0; i < 5; ++i)
      knots.push_back({random.between(values({-1.0, -1.0}), values({1.0, 1.0}))});
    const JointCurve path =
        spline_through(knots, {1.0, 1.0, 1.0, 1.0}, SplineDegree::quintic, SplineEnds::natural);
    const Arm arm = uneven_arm();
    const Limits& own = arm.limits();
    PathLimits limits{.velocity = own.velocity, .acceleration = own.acceleration};
    const double either = time_optimal(path, arm, limits)->motion.duration();
    limits.ways = own.ways;
    const auto quick = time_optimal(path, arm, limits);
    REQUIRE(quick);
    CHECK(sampled_use(quick->motion, own) <= 1 + 1e-6);
    CHECK(sampled_use(quick->motion, own) > 0.99);
    CHECK(quick->motion.duration() < either);
    // The same path of the arm turned over: down is up, gone along from its end.
    const Arm turned = uneven_arm({-0.6, 1.2}, {-2.0, 4.0});
    limits.ways = turned.limits().ways;
    const auto back = time_optimal(path.reversed(), turned, limits);
    // Velocities change sign with the direction, accelerations do not.
    const Arm mirrored = uneven_arm({-0.6, 1.2}, kPush);
    limits.ways = mirrored.limits().ways;
    CHECK(time_optimal(path.reversed(), mirrored, limits)->motion.duration() ==
          Approx(quick->motion.duration()).epsilon(1e-3));
    REQUIRE(back);
    CHECK(sampled_use(back->motion, turned.limits()) <= 1 + 1e-6);
    // With jerk limits, too.
    limits.ways = own.ways;
    limits.jerk = own.jerk;
    const auto smooth = jerk_limited_path(path, arm, limits);
    REQUIRE(smooth);
    CHECK(sampled_use(smooth->motion, own) <= 1 + 1e-6);
    CHECK(smooth->motion.duration() > quick->motion.duration() * (1 - 1e-3));
  }
}

TEST_CASE("ways: the audit counts each way's limit, of curves and of rows") {
  const Arm arm = uneven_arm();
  const CellQuery query = query_of(arm);
  const auto sinking =
      pace({values({1.0, 0.0}), values({0.0, 0.0})}, arm, {.profile = Profile::trapezoid});
  REQUIRE(sinking);
  CHECK(audit_motion(query, sinking->motion).passed());
  const MotionAudit other = audit_motion(query_of(uneven_arm({-0.6, 1.2})), sinking->motion);
  REQUIRE_FALSE(other.passed());
  CHECK_THAT(other.breaches.front().text, Contains("limit 34.4 deg/s"));
  const Motion rows = resampled(sinking->motion, 100.0);
  CHECK(audit_motion(query, rows, {.sampled = true}).passed());
  CHECK_FALSE(audit_motion(query_of(uneven_arm({-0.6, 1.2})), rows, {.sampled = true}).passed());
}
