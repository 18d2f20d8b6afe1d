// Laws of progress along tool paths, steady speeds, and the comparison with joint moves.
#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/pace/compare_moves.hpp"
#include "support/cells.hpp"
#include "support/motions.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

// On a rail the tool's way is the joint's: v 0.5, a 2, j 20.
Arm rail() {
  Link base{.name = "base"};
  return Arm::build({.name = "rail",
                     .links = {base, sliding("slide", {0, 0, 0}, Vector3::UnitX())},
                     .tools = {{.name = "tip"}}});
}

struct Six {
  Arm arm = wrist_arm();
  CellQuery query{Cell::build({.arms = {arm}}), "six"};
  Posture start = values({0.2, 0.3, 0.4, 0.3, 0.7, 0.1});
  Pose from = tool_pose(arm, arm.tool(""), start);
  [[nodiscard]] ToolCurve line() const {
    return follow_tool_path(
               query, start, "",
               ToolLine(from, {from.rotation, from.position + Vector3(-0.05, 0.25, 0)}))
        .value();
  }
  [[nodiscard]] ToolCurve arc() const {
    return follow_tool_path(query, start, "",
                            ToolArc(from, from.position + Vector3(-0.02, 0.12, 0.06),
                                    {from.rotation, from.position + Vector3(-0.05, 0.25, 0)}))
        .value();
  }
};

}  // namespace

TEST_CASE("tool moves on a rail take what each law takes in closed form") {
  const Arm arm = rail();
  const CellQuery query(Cell::build({.arms = {arm}}), "rail");
  const double way = 0.2, v = 0.25, a = 2.0, j = 20.0;
  const auto curve = follow_tool_path(query, values({0.0}), "",
                                      ToolLine(Pose::at({0, 0, 0}), Pose::at({way, 0, 0})));
  REQUIRE(curve);
  const auto time = [&](Profile profile, bool keep_jerk = false) {
    const auto paced =
        pace(*curve, query, {.profile = profile, .keep_jerk = keep_jerk, .tool_speed = v});
    REQUIRE(paced);
    return paced->motion.duration();
  };
  CHECK(time(Profile::cubic) == Approx(1.5 * way / v).epsilon(1e-6));
  CHECK(time(Profile::quintic) == Approx(15.0 / 8.0 * way / v).epsilon(1e-6));
  CHECK(time(Profile::trapezoid) == Approx(way / v + v / a).epsilon(1e-6));
  // a is reached, since v > a^2 / j.
  CHECK(time(Profile::jerk_limited) == Approx(way / v + v / a + a / j).epsilon(1e-6));
  CHECK(time(Profile::time_optimal) == Approx(way / v + v / a).epsilon(1e-3));
  CHECK(time(Profile::time_optimal, true) == Approx(way / v + v / a + a / j).epsilon(3e-3));
}

TEST_CASE("tool moves keep every limit under every law, and their path") {
  const Six six;
  for (const ToolCurve& curve : {six.line(), six.arc()})
    for (const Profile profile : kAllProfiles)
      for (const double speed : {1e9, 0.08}) {
        INFO(name_of(profile) << " " << curve.path.kind() << " " << speed);
        const auto paced = pace(curve, six.query, {.profile = profile, .tool_speed = speed});
        REQUIRE(paced);
        CHECK(sampled_share(paced->motion, six.arm.limits().velocity, 1) <= 1 + 1e-6);
        CHECK(sampled_share(paced->motion, six.arm.limits().acceleration, 2) <= 1 + 1e-6);
        const bool keeps_jerk = profile == Profile::quintic || profile == Profile::jerk_limited;
        if (keeps_jerk) CHECK(sampled_share(paced->motion, six.arm.limits().jerk, 3) <= 1 + 1e-6);
        const Tool tool = six.arm.end_tool();
        ToolPath::Deviation off;
        JointState state;
        double fastest = 0.0;
        for (int i = 0; i <= 1500; ++i) {
          paced->motion.at(paced->motion.duration() * i / 1500, state);
          off = curve.path.deviation_of(tool_pose(six.arm, tool, state.position), off.parameter);
          CHECK(off.beside < 2e-4);
          CHECK(off.turned < 2e-3);
          fastest = std::max(fastest, point_velocity(six.arm, tool.link_index, tool.tip.position,
                                                     state.position, state.velocity)
                                          .norm());
        }
        CHECK(off.parameter == Approx(curve.path.end()).margin(1e-6));
        CHECK(fastest < speed * (1 + 1e-4));
        if (speed < 1.0) CHECK(fastest > 0.99 * speed);
        // It could not be quicker: something is used to the full.
        if (speed > 1.0)
          CHECK(std::max({sampled_share(paced->motion, six.arm.limits().velocity, 1),
                          sampled_share(paced->motion, six.arm.limits().acceleration, 2),
                          keeps_jerk ? sampled_share(paced->motion, six.arm.limits().jerk, 3)
                                     : 0.0}) > 0.99);
      }
}

TEST_CASE("time-optimal tool moves are the quickest, and those that keep jerk next") {
  const Six six;
  const ToolCurve curve = six.arc();
  const double best = pace(curve, six.query, {.profile = Profile::time_optimal})->motion.duration();
  const double smooth =
      pace(curve, six.query, {.profile = Profile::time_optimal, .keep_jerk = true})
          ->motion.duration();
  CHECK(best < smooth);
  for (const Profile profile : {Profile::cubic, Profile::trapezoid})
    CHECK(best < pace(curve, six.query, {.profile = profile})->motion.duration());
  for (const Profile profile : {Profile::quintic, Profile::jerk_limited})
    CHECK(smooth < pace(curve, six.query, {.profile = profile})->motion.duration());
}

TEST_CASE("a steady tool speed: how well it is kept, or what could be") {
  const Six six;
  const ToolCurve curve = six.line();
  for (const Profile profile : {Profile::trapezoid, Profile::jerk_limited, Profile::time_optimal}) {
    INFO(name_of(profile));
    const auto slow =
        pace(curve, six.query, {.profile = profile, .tool_speed = 0.1, .steady = true});
    REQUIRE(slow);
    REQUIRE(slow->steady);
    CHECK(slow->steady->kept);
    CHECK(slow->steady->length == Approx(curve.path.length()).epsilon(1e-4));
    CHECK(slow->steady->at_speed > 0.85 * slow->steady->length);
    CHECK(slow->steady->mean == Approx(0.1).epsilon(2e-3));
    const auto fast =
        pace(curve, six.query, {.profile = profile, .tool_speed = 5.0, .steady = true});
    REQUIRE_FALSE(fast);
    CHECK(fast.reason().cause == Cause::too_fast);
    CHECK_THAT(fast.reason().text, Contains("tool speed 5000.0 mm/s is never reached"));
    REQUIRE(fast.reason().figures.size() == 2);
    const double kept = fast.reason().figures[1].value;
    CHECK(pace(curve, six.query, {.profile = profile, .tool_speed = kept, .steady = true}));
    CHECK_FALSE(
        pace(curve, six.query, {.profile = profile, .tool_speed = 1.05 * kept, .steady = true}));
  }
  CHECK_THROWS_WITH(pace(curve, six.query, {.tool_speed = 0.1, .steady = true}),
                    Contains("a quintic profile has no constant speed"));
  CHECK_THROWS_WITH(pace(curve, six.query, {.profile = Profile::trapezoid, .steady = true}),
                    Contains("a steady tool needs a speed"));
  CHECK_THROWS_WITH(pace(curve, six.query, {.tool_speed = -1.0}), Contains("above zero"));
  CHECK_THROWS_WITH(pace(curve, six.query, {.profile = Profile::trapezoid, .keep_jerk = true}),
                    Contains("take profile time-optimal"));
}

TEST_CASE("what starts beside its path is refused") {
  const Six six;
  const Pose beside{six.from.rotation, six.from.position + Vector3(0, 0, 0.01)};
  CHECK_THROWS_WITH(follow_tool_path(six.query, six.start, "",
                                     ToolLine(beside, {six.from.rotation,
                                                       six.from.position + Vector3(0, 0.2, 0)})),
                    Contains("the tool does not begin on the straight line"));
}

TEST_CASE("a joint move and a straight move side by side") {
  // Two joints of 400 and 300 mm, both turned: the chord is worked out by hand.
  const Six six;
  const ToolCurve curve = six.line();
  const auto paced = pace(curve, six.query);
  REQUIRE(paced);
  const auto compared = compare_moves(curve, paced->motion, six.query);
  REQUIRE(compared);
  CHECK(compared->tool.off_line < 2e-4);
  CHECK(compared->tool.way == Approx(curve.path.length()).epsilon(1e-4));
  CHECK(compared->joints.way > compared->tool.way);
  const Posture& a = six.start;
  const Posture b = paced->motion.at(paced->motion.duration()).position;
  CHECK((compared->joints.travel - (b - a).cwiseAbs()).norm() < 1e-9);
  double furthest = 0.0;
  const Vector3 chord = Vector3(-0.05, 0.25, 0).normalized();
  for (int i = 0; i <= 1000; ++i) {
    const Vector3 off =
        tool_pose(six.arm, six.arm.tool(""), a + i / 1000.0 * (b - a)).position - six.from.position;
    furthest = std::max(furthest, (off - off.dot(chord) * chord).norm());
  }
  CHECK(compared->joints.off_line == Approx(furthest).epsilon(1e-3));
  CHECK(compared->joints.velocity_use.maxCoeff() <= 1 + 1e-9);
  CHECK_THAT(compared->summary(), Contains("times as long as a joint move"));
  CHECK_THAT(compared->table(six.arm), Contains("off the straight line"));
}

TEST_CASE("a tool move that ends where it began has no joint move beside it") {
  const Six six;
  std::vector<Pose> poses;
  for (int i = 0; i <= 12; ++i) {
    const double t = i * 0.52359877559829882;  // a twelfth of a turn
    poses.push_back(
        {six.from.rotation, six.from.position + 0.04 * Vector3(0, std::sin(t), 1.0 - std::cos(t))});
  }
  const auto curve = follow_tool_path(six.query, six.start, "", ToolTrace(poses));
  REQUIRE(curve);
  const auto paced = pace(*curve, six.query, {.profile = Profile::jerk_limited});
  REQUIRE(paced);
  CHECK_THROWS_WITH(compare_moves(*curve, paced->motion, six.query),
                    Contains("ends where it began"));
  CHECK_THROWS_WITH(pace(*curve, six.query, {.at = {{}, {}}}), Contains("no waypoints or corners"));
}

TEST_CASE("waypoints passed slowly, stopped at, waited at") {
  const Arm arm = planar_arm();
  const std::vector<Posture> waypoints{values({0, 0}), values({1, 0.5}), values({1.5, -0.5})};
  for (const Profile profile : kAllProfiles) {
    INFO(name_of(profile));
    const PaceOptions plain{.profile = profile};
    PaceOptions slow = plain;
    slow.at = {{}, {.speed = 0.1}, {.wait = 0.7}};
    const auto usual = pace(waypoints, arm, plain);
    const auto paced = pace(waypoints, arm, slow);
    REQUIRE((usual && paced));
    const Motion first =
        pace({waypoints[0], waypoints[1]}, arm, {.profile = profile, .speed = 0.1})->motion;
    const Motion second = pace({waypoints[1], waypoints[2]}, arm, plain)->motion;
    CHECK(paced->motion.duration() ==
          Approx(first.duration() + second.duration() + 0.7).epsilon(2e-3));
    const JointState waiting = paced->motion.at(paced->motion.duration() - 0.35);
    CHECK(waiting.velocity.norm() < 1e-12);
    CHECK((waiting.position - waypoints[2]).norm() < 1e-9);
    CHECK(paced->stops == 1);
  }
  // A wait at the first waypoint comes before everything else.
  const auto late = pace(waypoints, arm, {.at = {{.wait = 0.4}, {}, {}}});
  REQUIRE(late);
  CHECK(late->motion.duration() == Approx(pace(waypoints, arm)->motion.duration() + 0.4));
  CHECK((late->motion.at(0.39).position - waypoints[0]).norm() < 1e-12);
  CHECK_THROWS_WITH(pace(waypoints, arm, {.at = {{}, {}}}), Contains("3 waypoints, and 2 say"));
  CHECK_THROWS_WITH(pace(waypoints, arm, {.at = {{}, {.speed = 0.0}, {}}}), Contains("above 0"));
  CHECK_THROWS_WITH(pace(waypoints, arm, {.at = {{}, {.wait = -1.0}, {}}}),
                    Contains("zero or more"));

  const CellQuery query(Cell::build({.arms = {arm}}), "flat");
  PaceOptions rounded{.profile = Profile::time_optimal, .corners = CornerBounds{.angle = 0.1}};
  CHECK(pace(waypoints, query, rounded)->stops == 0);
  const double free = pace(waypoints, query, rounded)->motion.duration();
  rounded.at = {{}, {.stop = true}, {}};
  const auto stopped = pace(waypoints, query, rounded);
  REQUIRE(stopped);
  CHECK(stopped->stops == 1);
  CHECK(stopped->corners.empty());
  // The slow stretch ends with the corner, which is of both.
  rounded.at = {{}, {.speed = 0.1}, {}};
  const auto capped = pace(waypoints, query, rounded);
  REQUIRE(capped);
  CHECK(capped->motion.duration() > 3.0 * free);
  double fast_from = -1.0;
  for (int i = 0; i <= 2000; ++i) {
    const JointState at = capped->motion.at(capped->motion.duration() * i / 2000);
    const double use = at.velocity.cwiseQuotient(arm.limits().velocity).cwiseAbs().maxCoeff();
    if (use > 0.11 && fast_from < 0.0) fast_from = at.position[0];
    if (at.position[0] < 0.9) CHECK(use < 0.101);
  }
  CHECK(fast_from > 0.9);
}
