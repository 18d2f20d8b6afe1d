#include "elbowroom/kinematics/requirement.hpp"

#include <catch2/catch.hpp>
#include <cmath>
#include <limits>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/target_on_arm.hpp"
#include "support/allocations.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

Vector3 some(RandomStream& random, double size) {
  return {random.uniform(-size, size), random.uniform(-size, size), random.uniform(-size, size)};
}

Vector3 some_direction(RandomStream& random) { return some(random, 1.0).normalized(); }

Pose some_pose(RandomStream& random) {
  return {rotation_about(some_direction(random), random.uniform(-3, 3)), some(random, 0.5)};
}

ErrorRows rows_at(const Requirement& requirement, const Pose& frame, const Link& link = {}) {
  ErrorRows rows;
  error_rows(requirement, frame, link, {}, rows);
  return rows;
}

// A frame a moment later, with a velocity and a turning.
Pose moved(const Pose& frame, const Vector3& velocity, const Vector3& turning, double time) {
  const double angle = turning.norm() * time;
  return {rotation_about(turning.normalized(), angle) * frame.rotation,
          frame.position + velocity * time};
}

// Compares what rows say of their growth with differences, for random frames.
void check_growth(const Requirement& requirement, RandomStream& random, int least) {
  const Link link{.name = "l",
                  .parts = {{.shape = Box{{0.1, 0.2, 0.3}}, .at = Pose::at({0.1, 0, 0})},
                            {.shape = Capsule{0.04, 0.2}}}};
  int compared = 0;
  for (int i = 0; i < 400; ++i) {
    const Pose frame = some_pose(random);
    const Vector3 velocity = some(random, 1.0);
    const Vector3 turning = some(random, 1.0);
    constexpr double kStep = 1e-6;
    const ErrorRows now = rows_at(requirement, frame, link);
    const ErrorRows after = rows_at(requirement, moved(frame, velocity, turning, kStep), link);
    const ErrorRows before = rows_at(requirement, moved(frame, velocity, turning, -kStep), link);
    if (now.count != after.count || now.count != before.count) continue;  // a band's end between
    for (int r = 0; r < now.count; ++r) {
      const auto k = static_cast<std::size_t>(r);
      const double by_rows = now.all[k].by_velocity.dot(velocity) + now.all[k].by_turn.dot(turning);
      const double by_difference = (after.all[k].error - before.all[k].error) / (2.0 * kStep);
      CHECK(by_rows == Approx(by_difference).margin(2e-4));
      ++compared;
    }
  }
  CHECK(compared > least);
}

}  // namespace

TEST_CASE("rows of bands grow as differences say") {
  RandomStream random(301);
  const Pose at = some_pose(random);
  SECTION("a place with free and banded axes, and any orientation") {
    check_growth({.holds = AtPlace{.at = at,
                                   .along = {Band{-0.1, 0.2}, Band::free(), Band::exactly(0.3)},
                                   .standoff = Band::exactly(0.15),
                                   .tilt = kAnyTilt}},
                 random, 500);
  }
  SECTION("a banded turn and a tilt, about an axis of its own") {
    check_growth({.holds = AtPlace{.at = at,
                                   .along = {Band::free(), Band::free(), Band::free()},
                                   .axis = some_direction(random),
                                   .turn = {-0.3, 0.4},
                                   .tilt = 0.2}},
                 random, 500);
  }
  SECTION("an axis at an angle to a direction") {
    check_growth({.holds = InDirection{.axis = some_direction(random),
                                       .along = some_direction(random),
                                       .angle = {1.0, 1.3}}},
                 random, 200);
  }
  SECTION("an axis at an angle to the way to a point") {
    check_growth({.holds = InDirection{.axis = Vector3::UnitX(),
                                       .at_point = true,
                                       .point = {0.9, 0.2, -0.4},
                                       .angle = {0.1, 0.5}}},
                 random, 200);
  }
  SECTION("a distance") {
    check_growth({.holds = AtDistance{.point = {0.1, 0.2, 0.3}, .range = {0.4, 0.5}}}, random, 200);
  }
  SECTION("a room for a frame, one side open") {
    check_growth(
        {.holds = InRoom{.at = at, .along = {Band{-0.1, 0.1}, Band{0.0, 1e9}, Band::free()}}},
        random, 200);
  }
  SECTION("a room for all shapes of a link") {
    check_growth({.holds = InRoom{.at = at,
                                  .along = {Band{-0.2, 0.2}, Band{-0.1, 0.3}, Band::free()},
                                  .whole_link = true}},
                 random, 200);
  }
  SECTION("a view of four corners from within a cone, a range and an incidence") {
    check_growth(
        {.holds = InSight{.points = {{1.0, 0, 0}, {1.0, 0.1, 0}, {1, 0, 0.1}, {1, 0.1, 0.1}},
                          .normal = Vector3(-1, 0.2, 0).normalized(),
                          .cone = 0.3,
                          .range = {0.5, 0.6},
                          .incidence = 0.4}},
        random, 1000);
  }
}

TEST_CASE("rows of exact requirements grow as differences say, near where they are met") {
  RandomStream random(302);
  for (int i = 0; i < 200; ++i) {
    const Pose at = some_pose(random);
    const Vector3 axis = some_direction(random);
    const Vector3 point = at.position + 0.7 * (at.rotation * axis);
    // The frame is all but where it should be.
    const Pose frame = moved(at, some(random, 1.0), some(random, 1.0), 1e-5);
    const Vector3 velocity = some(random, 1.0);
    const Vector3 turning = some(random, 1.0);
    for (const Requirement& requirement :
         {Requirement{.holds = AtPlace{.at = at}},
          Requirement{.holds = InDirection{.axis = axis, .along = at.rotation * axis}},
          Requirement{.holds = InDirection{.axis = axis, .at_point = true, .point = point}},
          Requirement{.holds = AtPlace{.at = {at.rotation, at * Vector3(0, 0, 0.1)},
                               .standoff = {0.05, 0.09}}}}) {
      constexpr double kStep = 1e-7;
      const ErrorRows now = rows_at(requirement, frame);
      const ErrorRows after = rows_at(requirement, moved(frame, velocity, turning, kStep));
      REQUIRE(now.count >= 3);
      REQUIRE(now.count == after.count);
      // Two rows of the standoff lie in a plane that a difference may turn: their sizes count
      // there.
      if (std::holds_alternative<AtPlace>(requirement.holds) && now.count > 6) continue;
      for (int r = 0; r < now.count; ++r) {
        const auto k = static_cast<std::size_t>(r);
        if (requirement.kind() == "place" && !now.all[k].is_angle && now.count != 6) continue;
        CHECK(now.all[k].by_velocity.dot(velocity) + now.all[k].by_turn.dot(turning) ==
              Approx((after.all[k].error - now.all[k].error) / kStep).margin(2e-3));
      }
    }
  }
}

TEST_CASE("errors are what geometry says") {
  RandomStream random(303);
  for (int i = 0; i < 100; ++i) {
    const Pose at = some_pose(random);
    const Vector3 axis = some_direction(random);
    const double turn = random.uniform(-3.0, 3.0);
    const double tilt = random.uniform(0.0, 1.5);
    // First turned about the axis, then leant about something across it.
    const Vector3 across = any_perpendicular(axis);
    const Pose frame{at.rotation * rotation_about(across, tilt) * rotation_about(axis, turn),
                     at.position};
    AtPlace place{.at = at, .axis = axis, .turn = {-0.5, 0.5}, .tilt = 0.3};
    const double over_turn = std::max(0.0, std::abs(turn) - 0.5);
    const double over_tilt = std::max(0.0, tilt - 0.3);
    const ErrorRows rows = rows_at({.holds = place}, frame);
    CHECK(rows.position() == Approx(0.0).margin(1e-12));
    CHECK(rows.angle() == Approx(std::hypot(over_turn, over_tilt)).margin(1e-9));
    place.turn = Band::free();
    CHECK(rows_at({.holds = place}, frame).angle() == Approx(over_tilt).margin(1e-9));
    place.tilt = kAnyTilt;
    CHECK(rows_at({.holds = place}, frame).angle() == 0.0);
    CHECK(
        rows_at({.holds = InDirection{.axis = axis, .along = at.rotation * axis}}, frame).angle() ==
        Approx(tilt).margin(1e-9));
  }
  // Standing 100 mm short along its own z, whichever way that points.
  const Pose place = Pose::at({0.3, 0.1, 0.5});
  const Pose frame{rotation_about(Vector3::UnitX(), 1.1), Vector3::Zero()};
  const Pose short_of{frame.rotation, place.position - 0.1 * frame.rotation.col(2)};
  const Requirement standoff{.holds =
                                 AtPlace{.at = place, .standoff = {0.08, 0.12}, .tilt = kAnyTilt}};
  CHECK(rows_at(standoff, short_of).position() == Approx(0.0).margin(1e-12));
  const Pose too_near{frame.rotation, place.position - 0.05 * frame.rotation.col(2)};
  CHECK(rows_at(standoff, too_near).position() == Approx(0.03));
  // A box 100 x 200 x 300 mm, upright in a room with a low roof.
  const Link link{.parts = {{.shape = Box{{0.1, 0.2, 0.3}}}}};
  const Requirement room{
      .holds = InRoom{.along = {Band::free(), Band::free(), Band{-1.0, 0.4}}, .whole_link = true}};
  CHECK(rows_at(room, Pose::at({0, 0, 0.3}), link).position() == Approx(0.05));
  CHECK(rows_at(room, Pose::at({0, 0, 0.24}), link).count == 0);
}

TEST_CASE("an exact place with offsets, turn and standoff is one pose") {
  RandomStream random(304);
  for (int i = 0; i < 50; ++i) {
    const AtPlace place{.at = some_pose(random),
                        .along = {Band::exactly(0.1), Band::exactly(-0.2), Band::exactly(0.3)},
                        .standoff = Band::exactly(0.05),
                        .axis = some_direction(random),
                        .turn = Band::exactly(0.7)};
    REQUIRE(place.is_full());
    const ErrorRows rows = rows_at({.holds = place}, place.frame_pose());
    CHECK(rows.position() < 1e-12);
    CHECK(rows.angle() < 1e-12);
  }
}

TEST_CASE("a requirement says what it holds and what it leaves open") {
  const Requirement place{.of = "grip",
                          .holds = AtPlace{.at = Pose::at({0.4, 0, 0.7}),
                                           .along = {Band{-0.02, 0.02}, Band{}, Band::free()},
                                           .turn = Band::free(),
                                           .tilt = 0.0872664626}};
  CHECK(place.text() ==
        "grip at [400, 0, 700] mm, rpy [0, 0, 0] deg, x off by -20 to 20 mm, free along z, free "
        "about its z, leaning up to 5.00 deg");
  CHECK(Requirement{.holds = InDirection{.axis = -Vector3::UnitX()}}.text() ==
        "its -x along [0, 0, 1]");
  CHECK(Requirement{.holds = AtDistance{{0, 0, 1}, {0.5, std::numeric_limits<double>::infinity()}}}
            .text() == "500 mm or more from [0, 0, 1000] mm");
  CHECK(Requirement{.holds = JointBands{{{"elbow", {0.0, std::numbers::pi / 2}},
                                         {"lift", {0.1, 0.2}, true}}}}
            .text() == "elbow 0 to 90 deg, lift 100 to 200 mm");
  CHECK(Requirement{.holds = AtPlace{}}.leaves_open().empty());
}

TEST_CASE("requirements that cannot mean anything are refused") {
  const auto refusal = [](Requirement one) {
    try {
      Target{}.require(std::move(one));
    } catch (const InputError& error) {
      return error.message() + "; " + error.advice();
    }
    return std::string("taken");
  };
  CHECK(refusal({.holds = AtPlace{}}) == "taken");
  CHECK_THAT(refusal({.holds = AtPlace{.at = Pose::at({0, std::nan(""), 0})}}),
             Contains("not finite"));
  CHECK_THAT(refusal({.holds = AtPlace{.at = {2.0 * Matrix3::Identity(), Vector3::Zero()}}}),
             Contains("rotation is not one"));
  CHECK_THAT(refusal({.holds = AtPlace{.turn = {0.5, -0.5}}}), Contains("the wrong way round"));
  CHECK_THAT(
      refusal({.holds = AtPlace{.along = {Band{-1, 1}, Band{}, Band{}}, .standoff = {0.1, 0.2}}}),
      Contains("a standoff with two ends"));
  CHECK_THAT(refusal({.holds = AtPlace{.tilt = -0.1}}), Contains("zero or more"));
  CHECK_THAT(refusal({.holds = InDirection{.along = {0, 0, 0}}}), Contains("must have length 1"));
  CHECK_THAT(refusal({.holds = AtDistance{.range = {-2.0, -1.0}}}), Contains("below zero"));
  CHECK_THAT(refusal({.holds = InSight{}}), Contains("1 to 4 points, found 0"));
  CHECK_THAT(refusal({.holds = JointBands{}}), Contains("no joint is named"));
  CHECK_THAT(refusal({.holds = AtPlace{}, .position_tolerance = 0.0}), Contains("above zero"));

  Target target;
  target.require({.holds = AtPlace{}}).require({.holds = AtPlace{}});
  CHECK(target.requirements()[1].name == "place 2");
  CHECK_THROWS_WITH(target.require({.name = "place", .holds = AtPlace{}}),
                    Contains("two requirements"));
  CHECK_THROWS_WITH(target.switched("plaice", false), Contains("unknown requirement"));
  CHECK_THROWS_WITH(target.tool(), Contains("not one full pose"));
  CHECK(target.switched("place 2", false).full_pose() != nullptr);
  CHECK_THROWS_WITH(Target{}.wish({.travel = -1.0}), Contains("zero or more"));
  CHECK_THROWS_WITH(Target{}.keep_clear(-1.0), Contains("zero or more"));
}

TEST_CASE("a target made ready for an arm: names, bands and equations") {
  RandomStream random(305);
  const Arm arm = wrist_arm();
  Target target;
  target.require({.of = "tip", .holds = AtPlace{.at = Pose::at({0.4, 0.1, 0.5}), .tilt = kAnyTilt}})
      .require({.of = "l3", .holds = AtDistance{{0.2, 0, 0.9}, {0.0, 0.1}}})
      .require({.holds = JointBands{{{"l1_to_l2", {-0.5, 0.25}}}}});
  const TargetOnArm on_arm(arm, target);
  CHECK(on_arm.size() == 2);
  CHECK(on_arm.lower()[1] == -0.5);
  CHECK(on_arm.upper()[1] == 0.25);

  // b is half the gradient of the sum of squared errors.
  for (int i = 0; i < 50; ++i) {
    const Posture q = random_posture(random, arm);
    NormalEquations equations;
    TargetOnArm::Error error;
    const long before = allocations();
    on_arm.equations(q, 0.3, equations, error);
    CHECK(allocations() == before);
    for (int k = 0; k < arm.dof(); ++k) {
      constexpr double kStep = 1e-6;
      Posture up = q, down = q;
      up[k] += kStep;
      down[k] -= kStep;
      NormalEquations a, b;
      on_arm.equations(up, 0.3, a, error);
      on_arm.equations(down, 0.3, b, error);
      CHECK(2.0 * equations.b[static_cast<std::size_t>(k)] ==
            Approx((a.cost - b.cost) / (2.0 * kStep)).margin(1e-6));
    }
  }
  const auto refusal = [&](const Target& wrong) {
    try {
      TargetOnArm on(arm, wrong);
    } catch (const InputError& error_) {
      return error_.message();
    }
    return std::string("taken");
  };
  CHECK_THAT(refusal(Target{}), Contains("asks for nothing"));
  CHECK_THAT(refusal(Target{}.require({.of = "tap", .holds = AtPlace{}})),
             Contains("unknown tool or link 'tap'"));
  CHECK_THAT(refusal(Target{}.require({.holds = JointBands{{{"l9", {0, 1}}}}})),
             Contains("unknown moving joint 'l9'"));
  CHECK_THAT(refusal(Target{}.require({.holds = JointBands{{{"l1_to_l2", {7.0, 8.0}}}}})),
             Contains("leaves joint l1_to_l2 no value"));
  Target many;
  for (int i = 0; i < 17; ++i) many.require({.holds = AtPlace{}});
  CHECK_THAT(refusal(many), Contains("more than 16 requirements"));
  const Arm bare = Arm::build(
      {.name = "bare", .links = {{.name = "base"}, turning("a", {0, 0, 0}, Vector3::UnitZ())}});
  CHECK_THROWS_WITH(TargetOnArm(bare, Target{}.require({.holds = AtPlace{}})),
                    Contains("has no tool"));
}
