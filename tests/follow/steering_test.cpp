// Hands on a stick: whatever is commanded, limits and clearance hold, by differences and distances
// of the postures alone.
#include <catch2/catch.hpp>
#include <cmath>
#include <limits>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/follow/follow.hpp"
#include "elbowroom/follow/steer.hpp"
#include "support/allocations.hpp"
#include "support/cells.hpp"
#include "support/demo.hpp"
#include "support/step_shares.hpp"

namespace er {
namespace {

Twist along(double x, double y, double z) { return {{x, y, z}, {0, 0, 0}}; }
Twist about(double x, double y, double z) { return {{0, 0, 0}, {x, y, z}}; }

TwistRecord record_of(const std::vector<std::pair<double, Twist>>& commands) {
  TwistRecord record;
  for (const auto& [duration, twist] : commands) {
    record.times.push_back(record.duration);
    record.twists.push_back(twist);
    record.duration += duration;
  }
  return record;
}

// The least distance at every sample.
double sampled_clearance(const CellQuery& query, const StepLog& log) {
  PartPoses parts(query);
  double least = std::numeric_limits<double>::infinity();
  for (const FollowSample& s : log.samples)
    least = std::min(least, query.nearest(s.posture, parts).distance);
  return least;
}

double stretch_of(const std::vector<Slowdown>& slowdowns, const std::string& why) {
  for (const Slowdown& s : slowdowns)
    if (s.why.find(why) != std::string::npos) return s.to - s.from;
  return 0.0;
}

TEST_CASE("steering: in free space the tool does what is commanded, in a straight line") {
  const CellQuery query(test::demo_cell(), "teasel");
  const Arm& arm = query.arm();
  const Tool& tool = arm.tool("grip");
  const Posture home = arm.stance("home");
  const Steered s = steer(query, tool, record_of({{1.0, along(0.03, 0.12, -0.02)}}), home);
  REQUIRE(!s.no);
  test::check_within_limits(test::step_shares(arm, s.samples));
  const Pose from = tool_pose(arm, tool, home);
  const Vector3 way = Vector3(0.03, 0.12, -0.02).normalized();
  double fastest = 0.0;
  for (std::size_t i = 1; i < s.samples.size(); ++i) {
    const Pose tip = tool_pose(arm, tool, s.samples[i].posture);
    const Vector3 gone = tip.position - from.position;
    CHECK((gone - way.dot(gone) * way).norm() < 1e-7);
    CHECK(twist_between(from, tip, 1.0).turning.norm() < 1e-7);
    const Pose before = tool_pose(arm, tool, s.samples[i - 1].posture);
    fastest = std::max(fastest, 1000.0 * (tip.position - before.position).norm());
  }
  CHECK(fastest == Approx(std::hypot(0.03, 0.12, 0.02)).epsilon(1e-4));
  CHECK(s.travel == Approx(s.asked_travel).epsilon(0.01));  // late at the start, late at the end
  CHECK(s.samples.back().velocity.isZero(0.0));
  CHECK(s.duration() < 1.5);
}

TEST_CASE("steering: it stops before what is in the way, and can be led away again") {
  const CellQuery query(test::demo_cell(), "teasel");
  const Arm& arm = query.arm();
  const Posture home = arm.stance("home");
  const Steered down = steer(query, arm.tool("grip"), record_of({{5.0, along(0, 0, -0.25)}}), home);
  REQUIRE(!down.no);
  test::check_within_limits(test::step_shares(arm, down.samples));
  CHECK(sampled_clearance(query, down) >= 0.005);
  CHECK(sampled_clearance(query, down) < 0.0052);  // and it goes as far as it may
  CHECK(down.worst_off < 1e-6);
  REQUIRE(!down.slowdowns.empty());
  CHECK(down.slowdowns.back().why.find("bucket") != std::string::npos);
  CHECK(down.slowdowns.back().least_scale < 1e-6);

  const Steered up = steer(query, arm.tool("grip"), record_of({{1.0, along(0, 0, 0.1)}}),
                           down.samples.back().posture);
  REQUIRE(!up.no);
  CHECK(up.travel > 0.09);
  CHECK(sampled_clearance(query, up) >= 0.005);
}

TEST_CASE("steering: stretched out it stops on its course, and comes back at once") {
  const CellQuery query(test::demo_cell(), "teasel");
  const Arm& arm = query.arm();
  const Tool& tool = arm.tool("grip");
  const Posture home = arm.stance("home");
  const Steered s = steer(query, tool,
                          record_of({{0.7, along(0, 0, -0.2)},
                                     {4.0, along(0.2, 0, 0)},
                                     {1.0, along(0, 0, 0)},
                                     {1.0, along(-0.2, 0, 0.02)}}),
                          home);
  REQUIRE(!s.no);
  test::check_within_limits(test::step_shares(arm, s.samples));
  CHECK(s.worst_off < 1e-6);
  CHECK(stretch_of(s.slowdowns, "kept on its course") > 0.3);
  // Over the last second it goes most of what is commanded.
  const Pose stretched = tool_pose(arm, tool, s.samples[5700].posture);
  const Pose back = tool_pose(arm, tool, s.samples.back().posture);
  CHECK(stretched.position[0] - back.position[0] > 0.13);
}

TEST_CASE(
    "steering: straight through a singularity that asks nothing of the wrist, at full speed") {
  const CellQuery query(test::demo_cell(), "teasel");
  const Arm& arm = query.arm();
  const Steered s = steer(
      query, arm.tool("grip"),
      record_of({{1.0, along(0, 0.1, 0)}, {1.0, along(0, -0.1, 0)}, {3.0, along(0, 0, -0.2)}}),
      arm.stance("home"));
  REQUIRE(!s.no);
  const Posture& end = s.samples.back().posture;
  CHECK(s.samples.front().posture[4] * end[4] < 0.0);  // the wrist went through straight
  CHECK(s.slowdowns.empty());
}

TEST_CASE("steering: a wild hand, cut off at any moment, breaks no limit and touches nothing") {
  RandomStream random(23);
  for (const char* file : {"/glaze.cell.yaml", "/bracken.cell.yaml"}) {
    const Cell cell = load_cell(std::string(DEMO_DIR) + file);
    const CellQuery query(cell, cell.arms().front().name());
    const Arm& arm = query.arm();
    for (int run = 0; run < 4; ++run) {
      const double speed = std::array{0.1, 0.3, 0.8, 2.0}[static_cast<std::size_t>(run)];
      std::vector<std::pair<double, Twist>> commands;
      const auto any = [&] { return random.uniform(-1.0, 1.0); };
      for (int i = 0; i < 6; ++i)
        commands.push_back(
            {random.uniform(0.05, 0.5),
             {speed * Vector3(any(), any(), any()), 3.0 * speed * Vector3(any(), any(), any())}});
      const Steered s = steer(query, arm.tool(""), record_of(commands), arm.stance("home"),
                              {.rate = 500.0, .clearance = 0.003});
      CAPTURE(file, speed);
      test::check_within_limits(test::step_shares(arm, s.samples));
      CHECK(sampled_clearance(query, s) >= 0.003);
      CHECK(s.clearance.lower >= 0.003 - 1e-4);  // between the samples, too
      CHECK(s.samples.back().velocity.isZero(0.0));
      if (speed < 0.5) CHECK(!s.no);
    }
  }
}

TEST_CASE("steering: a joint is stopped at the end of its range, and the tool turns no further") {
  const CellQuery query(test::demo_cell(), "teasel");
  const Arm& arm = query.arm();
  Posture start = arm.stance("over_bucket");
  const Vector3 z = tool_pose(arm, arm.tool("grip"), start).rotation.col(2);
  const Steered s =
      steer(query, arm.tool("grip"), record_of({{12.0, about(1.5 * z[0], 1.5 * z[1], 1.5 * z[2])}}),
            start, {.rate = 250.0});
  REQUIRE(!s.no);
  test::check_within_limits(test::step_shares(arm, s.samples));
  CHECK(s.travel < 1e-4);
  const double end = arm.limits().upper[5];
  CHECK(std::abs(s.samples.back().posture[5]) == Approx(end).margin(1e-3));
  CHECK(stretch_of(s.slowdowns, "wrist_turn comes near the end of its range") > 1.0);
}

TEST_CASE(
    "steering: what is not commanded may turn, and redundant joints move with the tool alone") {
  const Cell cell = load_cell(DEMO_DIR "/bracken.cell.yaml");
  const CellQuery query(cell, "bracken");
  const Arm& arm = query.arm();
  const Posture home = arm.stance("home");
  const Steered still =
      steer(query, arm.tool(""), record_of({{0.5, along(0, 0, 0)}}), home, {.clearance = 0.003});
  for (const FollowSample& s : still.samples) CHECK((s.posture - home).norm() == 0.0);

  const Twist ahead = along(0.1, 0, 0);
  const Steered held =
      steer(query, arm.tool(""), record_of({{1.0, ahead}}), home, {.clearance = 0.003});
  const Steered loose =
      steer(query, arm.tool(""), record_of({{1.0, ahead}}), home,
            {.clearance = 0.003, .free = {.along = {}, .turn = true, .tilt = true}});
  const auto turned = [&](const Steered& s) {
    return twist_between(tool_pose(arm, arm.tool(""), home),
                         tool_pose(arm, arm.tool(""), s.samples.back().posture), 1.0)
        .turning.norm();
  };
  REQUIRE(!held.no);
  REQUIRE(!loose.no);
  CHECK(turned(held) < 1e-6);
  CHECK(turned(loose) > 0.01);
  CHECK(loose.travel == Approx(held.travel).epsilon(1e-3));
}

TEST_CASE("steering: commands along the tool's own axes, and in the axes of a frame") {
  const CellQuery query(test::demo_cell(), "teasel");
  const Arm& arm = query.arm();
  const Tool& tool = arm.tool("grip");
  const Posture home = arm.stance("home");
  const Pose from = tool_pose(arm, tool, home);
  const auto gone = [&](const SteerRun& run) {
    const Steered s = steer(query, tool, record_of({{0.5, along(0, 0.1, 0)}}), home, {}, run);
    REQUIRE(!s.no);
    return Vector3(tool_pose(arm, tool, s.samples.back().posture).position - from.position);
  };
  CHECK((gone({.in_tool_axes = true}).normalized() - from.rotation.col(1)).norm() < 1e-6);
  CHECK((gone({.axes = rotation_from_rpy(0, 0, 0.5 * std::numbers::pi)}).normalized() +
         Vector3::UnitX())
            .norm() < 1e-6);
}

TEST_CASE(
    "steering: a step takes nothing from the heap, and a command that is not one counts as none") {
  const CellQuery query(test::demo_cell(), "teasel");
  Steering steering(query, query.arm().tool("grip"), query.arm().stance("home"));
  for (int i = 0; i < 400; ++i) steering.step(along(0, 0.1, -0.3));
  const Posture before = steering.posture();
  const long taken = test::allocations();
  for (int i = 0; i < 200; ++i) steering.step(along(0, 0.1, -0.3));
  CHECK(test::allocations() == taken);
  CHECK((steering.posture() - before).norm() > 0.01);
  for (int i = 0; i < 1000; ++i)
    steering.step(along(std::numeric_limits<double>::quiet_NaN(), 0, 0));
  CHECK(steering.velocity().isZero(0.0));
  CHECK(steering.posture().allFinite());
  CHECK(steering.share() == 1.0);
}

TEST_CASE("steering: the unlimited modes do what is commanded, and are measured") {
  const CellQuery query(test::demo_cell(), "teasel");
  const Arm& arm = query.arm();
  const Steered s = steer(query, arm.tool("grip"), record_of({{1.5, along(0, 0, -0.5)}}),
                          arm.stance("home"), {.mode = FollowMode::pseudo, .rate = 200.0});
  REQUIRE(s.no);
  CHECK(s.no->cause == Cause::in_collision);
  const Steered fast = steer(query, arm.tool("grip"), record_of({{0.05, along(0, 4.0, 0)}}),
                             arm.stance("home"), {.mode = FollowMode::pseudo, .rate = 200.0});
  REQUIRE(fast.no);
  CHECK(fast.no->cause == Cause::too_fast);
  CHECK(fast.travel == Approx(fast.asked_travel).epsilon(0.01));
}

// The largest speed of the middle of any part of a link that is in the zone, by differences.
double fastest_middle(const Arm& arm, const Zone& zone, const std::vector<FollowSample>& samples) {
  double fastest = 0.0;
  for (std::size_t i = 1; i < samples.size(); ++i) {
    const auto before = link_poses(arm, samples[i - 1].posture);
    const auto after = link_poses(arm, samples[i].posture);
    for (std::size_t l = 0; l < before.size(); ++l)
      for (const Part& part : arm.links()[l].parts) {
        if (distance(part.shape, after[l] * part.at, zone.parts[0].shape, zone.at).distance > 0.0)
          continue;
        const Vector3 way = (after[l] * part.at).position - (before[l] * part.at).position;
        fastest = std::max(fastest, way.norm() / (samples[i].time - samples[i - 1].time));
      }
  }
  return fastest;
}

TEST_CASE("following and steering: slow in a zone that caps speeds, whatever is asked for") {
  CellDescription description = test::demo_cell().description();
  const Zone zone{.name = "walkway",
                  .at = Pose::at({0.3, 0.35, 0.9}),
                  .parts = {{.shape = Box{{1.0, 0.4, 1.0}}}},
                  .speed = 0.1};
  description.zones.push_back(zone);
  const CellQuery query(Cell::build(description), "teasel");
  const Arm& arm = query.arm();
  const Tool& tool = arm.tool("grip");
  const Posture home = arm.stance("home");
  const auto check = [&](const StepLog& log) {
    CAPTURE(log.no ? log.no->text : "");
    REQUIRE(!log.no);
    CHECK(fastest_middle(arm, zone, log.samples) <= 0.1 * (1.0 + 1e-6));
    CHECK(fastest_middle(arm, zone, log.samples) > 0.05);
    CHECK(stretch_of(log.slowdowns, "in zone walkway, where 100.0 mm/s is the most") > 0.3);
    test::check_within_limits(test::step_shares(arm, log.samples));
  };
  const Steered steered =
      steer(query, tool, record_of({{1.5, along(0, 0.25, 0)}}), home, {.rate = 250.0});
  check(steered);
  CHECK(steered.travel > 0.15);

  const Pose from = tool_pose(arm, tool, home);
  const PosePath path({0.0, 0.5, 1.0}, {from,
                                        {from.rotation, from.position + Vector3(0, 0.1, 0)},
                                        {from.rotation, from.position + Vector3(0, 0.25, 0)}});
  const Following followed = follow(query, tool, path, home, {.rate = 250.0});
  check(followed);
  CHECK(followed.duration() > 1.5);
  const Following pseudo =
      follow(query, tool, path, home, {.mode = FollowMode::pseudo, .rate = 250.0});
  REQUIRE(pseudo.no);
  CHECK(pseudo.no->cause == Cause::too_fast);
  CHECK(pseudo.zone.share > 1.5);
}

TEST_CASE("sticks: dead zone, full deflection, and the two of them askew") {
  const StickScale scale{.speed = 0.2, .turn_speed = 1.0, .dead_zone = 0.1};
  const Twist none = twist_of_sticks({0.1, -0.1, 0.05, 0, 0.09, 0}, scale);
  CHECK(none.velocity.isZero(0.0));
  CHECK(none.turning.isZero(0.0));
  const Twist full = twist_of_sticks({0, -1, 0, 0, 0, 0.55}, scale);
  CHECK((full.velocity - Vector3(0, -0.2, 0)).norm() < 1e-15);
  CHECK(full.turning[2] == Approx(0.5));
  const Twist askew = twist_of_sticks({1, 1, 0, 0, 0, 0}, scale);
  CHECK(askew.velocity.norm() == Approx(0.2));
  CHECK_THROWS_WITH(twist_of_sticks({}, {.dead_zone = 1.0}), Catch::Contains("dead zone"));
  CHECK_THROWS_WITH(twist_of_sticks({}, {.speed = 0.0}), Catch::Contains("above zero"));
}

TEST_CASE("steering: what cannot be steered is refused with the reason") {
  using Catch::Contains;
  const CellQuery query(test::demo_cell(), "teasel");
  const Arm& arm = query.arm();
  const Tool& tool = arm.tool("grip");
  const Posture home = arm.stance("home");
  CHECK_THROWS_WITH(Steering(query, tool, home, {.rate = 1.0}), Contains("10 to 100000"));
  CHECK_THROWS_WITH(
      Steering(query, tool, home, {.clearance = 0.2}),
      Contains("posture to steer from") && Contains("200.0 mm of clearance is asked for"));
  CHECK_THROWS_WITH(Steering(query, tool, home, {.tool_acceleration = 0.0}),
                    Contains("above zero"));
  CHECK_THROWS_WITH(Steering(query, tool, home, {.lag = 2.0}), Contains("lag"));
  CHECK_THROWS_WITH(Steering(query, tool, Posture::Zero(3)), Contains("posture to steer from"));
  CHECK_THROWS_WITH(steer(query, tool, {}, home), Contains("no commands"));
  TwistRecord record = record_of({{1.0, along(0.1, 0, 0)}, {1.0, along(0, 0, 0)}});
  record.times[1] = 0.0;
  CHECK_THROWS_WITH(steer(query, tool, record, home), Contains("ascend from 0"));
  record = record_of({{1.0, along(std::nan(""), 0, 0)}});
  CHECK_THROWS_WITH(steer(query, tool, record, home), Contains("command 1 is not finite"));
}

}  // namespace
}  // namespace er
