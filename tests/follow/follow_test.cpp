#include "elbowroom/follow/follow.hpp"

#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/recorded_file.hpp"
#include "support/cells.hpp"
#include "support/demo.hpp"
#include "support/step_shares.hpp"

namespace er {
namespace {

// The tool against the path, by the forward kinematics of whole poses.
double worst_off(const Arm& arm, const Tool& tool, const PosePath& path, const Following& f) {
  double worst = 0.0;
  for (const FollowSample& s : f.samples)
    worst = std::max(
        worst, (tool_pose(arm, tool, s.posture).position - path.at(s.path_time).position).norm());
  return worst;
}

PosePath straight(const Pose& from, const Vector3& shift, double duration, int pieces = 40) {
  std::vector<double> times;
  std::vector<Pose> poses;
  for (int i = 0; i <= pieces; ++i) {
    const double u = static_cast<double>(i) / pieces;
    times.push_back(duration * u);
    poses.push_back({from.rotation, from.position + u * u * u * (10 - 15 * u + 6 * u * u) * shift});
  }
  return {times, poses};
}

TEST_CASE(
    "follow: 1 mm beside the wrist's singularity, limited keeps path and limits and is late") {
  const CellQuery query(test::demo_cell(), "teasel");
  const Arm& arm = query.arm();
  const Tool& tool = arm.tool("grip");
  const TimedPoses file = load_timed_poses(DEMO_DIR "/beside_wrist.path.csv", {});
  const PosePath path(file.times, file.poses);
  const auto starts = path_starts(query, tool, path);
  REQUIRE(starts);
  const Following limited = follow_from_any(query, tool, path, *starts);
  REQUIRE(!limited.no);
  const test::StepShares m = test::step_shares(arm, limited.samples);
  test::check_within_limits(m);
  CHECK(m.velocity > 0.95);  // and does not dawdle
  const double off = worst_off(arm, tool, path, limited);
  CHECK(off < 2e-6);
  CHECK(limited.worst_off == Approx(off).margin(1e-12));
  CHECK(limited.followed == Approx(path.duration()));
  CHECK(limited.duration() > path.duration() + 0.5);
  CHECK(limited.duration() < path.duration() + 1.5);
  REQUIRE(!limited.slowdowns.empty());
  CHECK(limited.slowdowns.front().why.find("forearm_turn") != std::string::npos);
  CHECK(limited.clearance.lower > 0.005);

  const Posture start = limited.samples.front().posture;
  const Following plain = follow(query, tool, path, start, {.mode = FollowMode::plain});
  REQUIRE(plain.no);
  CHECK(plain.no->cause == Cause::too_fast);
  CHECK(test::step_shares(arm, plain.samples).velocity ==
        Approx(plain.velocity.share).epsilon(1e-6));
  CHECK(plain.velocity.share > 5.0);
  const Following damped = follow(query, tool, path, start, {.mode = FollowMode::damped});
  REQUIRE(damped.no);
  CHECK(damped.no->cause == Cause::off_line);
  CHECK(damped.worst_off > 1e-4);
  test::check_within_limits(test::step_shares(arm, damped.samples));
}

TEST_CASE("follow: the same path at other rates and speeds stays within limits and on the path") {
  const CellQuery query(test::demo_cell(), "teasel");
  const Arm& arm = query.arm();
  const Tool& tool = arm.tool("grip");
  const Pose at = tool_pose(arm, tool, arm.stance("home"));
  for (const double rate : {100.0, 500.0})
    for (const double duration : {0.3, 2.0}) {
      const PosePath path = straight(at, {0.0, 0.1, 0.05}, duration);
      const Following f = follow(query, tool, path, arm.stance("home"), {.rate = rate});
      CAPTURE(rate, duration, f.summary(query));
      REQUIRE(!f.no);
      const test::StepShares m = test::step_shares(arm, f.samples);
      test::check_within_limits(m);
      CHECK(worst_off(arm, tool, path, f) < 1e-4);
      CHECK(f.duration() >= duration - 1e-9);
    }
}

TEST_CASE("follow: a path out of reach is followed to where it ends, and the arm comes to rest") {
  const CellQuery query(test::demo_cell(), "teasel");
  const Arm& arm = query.arm();
  const Tool& tool = arm.tool("grip");
  const Posture home = arm.stance("home");
  const Pose at = tool_pose(arm, tool, home);
  const PosePath path = straight(at, {0.0, 0.0, 1.2}, 3.0);
  const Following f = follow(query, tool, path, home, {.clearance = 0.0});
  REQUIRE(f.no);
  CHECK(f.no->text.find("% of the way") != std::string::npos);
  CHECK(f.followed > 0.1);
  CHECK(f.followed < 2.9);
  test::check_within_limits(test::step_shares(arm, f.samples));
  CHECK(f.samples.back().velocity.norm() < 1e-6);
  CHECK(f.worst_off < 1e-4);
}

TEST_CASE("follow: stretched out at the end of its reach the arm stops on the path") {
  const CellQuery query(test::demo_cell(), "teasel");
  const Arm& arm = query.arm();
  const Tool& tool = arm.tool("grip");
  const Pose at{rotation_from_rpy(0, 0.5 * std::numbers::pi, 0), {0.6, 0.0, 0.9}};
  const PosePath path({0.0, 2.0, 4.0},
                      {at, Pose{at.rotation, {0.9, 0.0, 0.9}}, Pose{at.rotation, {1.3, 0.0, 0.9}}});
  const auto starts = path_starts(query, tool, path);
  REQUIRE(starts);
  const Following f = follow_from_any(query, tool, path, *starts);
  REQUIRE(f.no);
  CHECK_THAT(f.no->text, Catch::Matchers::Contains("stretched out"));
  CHECK(f.followed > 2.5);
  test::check_within_limits(test::step_shares(arm, f.samples));
  CHECK(f.worst_off < 1e-4);
  CHECK(f.samples.back().velocity.norm() < 1e-6);
  const auto near = path_starts(query, tool, path, arm.stance("home"));
  REQUIRE(near);
  CHECK(near->size() == 1);
  const auto nowhere =
      path_starts(query, tool, PosePath({0.0, 1.0}, {Pose::at({9, 0, 0}), Pose::at({9, 1, 0})}),
                  arm.stance("home"));
  REQUIRE(!nowhere);
  CHECK(nowhere.reason().cause == Cause::out_of_reach);
}

TEST_CASE("follow: slows down and stops before what is in the way") {
  Cell cell = test::demo_cell();
  const Arm arm = cell.arm("teasel");
  const Pose at = tool_pose(arm, arm.tool("grip"), arm.stance("home"));
  const CellQuery free(cell, "teasel");
  const PosePath path = straight(at, {0.0, 0.25, 0.0}, 2.0);
  REQUIRE(!follow(free, arm.tool("grip"), path, arm.stance("home"), {}).no);
  CellDescription with_plate = cell.description();
  with_plate.fixtures.push_back(
      test::box_body("plate", {0.3, 0.002, 0.3}, at.position + Vector3(0.0, 0.25, 0.0)));
  const CellQuery query(Cell::build(with_plate), "teasel");
  const Following f = follow(query, arm.tool("grip"), path, arm.stance("home"), {});
  REQUIRE(f.no);
  CHECK(f.no->cause == Cause::in_collision);
  CHECK(f.no->text.find("plate") != std::string::npos);
  CHECK(f.clearance.lower > 0.0049);
  CHECK(f.clearance.nearest.distance < 0.02);  // it did come near
  test::check_within_limits(test::step_shares(arm, f.samples));
  const Following heedless =
      follow(query, arm.tool("grip"), path, arm.stance("home"), {.mode = FollowMode::pseudo});
  REQUIRE(heedless.no);
  CHECK(heedless.no->cause == Cause::in_collision);
  CHECK(heedless.clearance.nearest.distance <= 0.0);
}

TEST_CASE("follow: seven joints keep the pose and are drawn to the wanted posture") {
  const Cell cell = load_cell(DEMO_DIR "/bracken.cell.yaml");
  const CellQuery query(cell, "bracken");
  const Arm& arm = query.arm();
  const Tool& tool = arm.tool("");
  const Posture home = arm.stance("home");
  const PosePath path = straight(tool_pose(arm, tool, home), {0.1, 0.05, 0.0}, 3.0);
  Posture towards = home;
  towards[2] += 0.5;
  const Following plainly = follow(query, tool, path, home, {.clearance = 0.001, .towards = home});
  const Following drawn = follow(query, tool, path, home, {.clearance = 0.001, .towards = towards});
  for (const Following* f : {&plainly, &drawn}) {
    CAPTURE(f->summary(query));
    REQUIRE(!f->no);
    const test::StepShares m = test::step_shares(arm, f->samples);
    test::check_within_limits(m);
    CHECK(worst_off(arm, tool, path, *f) < 1e-5);
  }
  CHECK(drawn.samples.back().posture[2] > plainly.samples.back().posture[2] + 0.05);
  CHECK_THROWS_WITH(follow(query, tool, path, home, {.mode = FollowMode::plain}),
                    Catch::Matchers::Contains("not square"));
}

TEST_CASE("follow: what the path leaves open may be left open by the arm") {
  const Cell cell = load_cell(DEMO_DIR "/sedge.cell.yaml");
  const CellQuery query(cell, "sedge");
  const Arm& arm = query.arm();
  const Tool& tool = arm.tool("");
  const Posture home = arm.stance("home");
  const PosePath path = straight(tool_pose(arm, tool, home), {0.02, 0.0, 0.02}, 1.0);
  FollowOptions options{.clearance = 0.001};
  options.free = {.along = {}, .turn = true, .tilt = true};
  const Following f = follow(query, tool, path, home, options);
  CAPTURE(f.summary(query));
  REQUIRE(!f.no);
  test::check_within_limits(test::step_shares(arm, f.samples));
  // Out of its plane the arm cannot go.
  const PosePath sideways = straight(tool_pose(arm, tool, home), {0.0, 0.02, 0.0}, 1.0);
  const Following stuck = follow(query, tool, sideways, home, options);
  REQUIRE(stuck.no);
  CHECK(stuck.no->cause == Cause::off_line);
  CHECK(stuck.worst_off < 1e-4);
}

TEST_CASE("follow: bad paths and options say what is wrong") {
  using Catch::Matchers::Contains;
  const Pose a;
  const Pose b = Pose::at({0.1, 0, 0});
  const Pose turned{rotation_from_rpy(0, 0, 2.0), Vector3::Zero()};
  CHECK_THROWS_WITH(PosePath({0.0}, {a}), Contains("two poses or more"));
  CHECK_THROWS_WITH(PosePath({0.0, 0.0}, {a, b}), Contains("times of a path ascend"));
  CHECK_THROWS_WITH(PosePath({0.0, 1.0}, {a, turned}), Contains("60 deg"));
  CHECK_THROWS_WITH(PosePath({0.0, std::nan("")}, {a, b}), Contains("not finite"));
  CHECK_THROWS_WITH(times_at_speed({a, a}, 0.1, 1.0), Contains("are the same"));
  CHECK(times_at_speed({a, b, turned}, 0.1, 1.0)[1] == Approx(1.0));
  CHECK(times_at_speed({a, turned}, 0.1, 1.0)[1] == Approx(2.0));
  const CellQuery query(test::demo_cell(), "teasel");
  const Arm& arm = query.arm();
  const Posture home = arm.stance("home");
  const PosePath path({0.0, 1.0}, {a, b});
  CHECK_THROWS_WITH(follow(query, arm.tool(""), path, home, {}), Contains("where the path begins"));
  CHECK_THROWS_WITH(follow(query, arm.tool(""), path, home, {.rate = 0.0}), Contains("rate"));
  CHECK_THROWS_WITH(follow_mode_named("limitd"), Contains("limited"));
}

TEST_CASE("pose path: goes through what was recorded, with no step in its velocity") {
  std::vector<double> times;
  std::vector<Pose> poses;
  for (int i = 0; i <= 20; ++i) {  // a circle with the tool turning, unevenly in time
    const double u = i / 20.0;
    times.push_back(3.0 * u * (0.5 + 0.5 * u));
    poses.push_back({rotation_from_rpy(0.3, 0.2, 6.0 * u), {std::cos(u), std::sin(u), 0.1 * u}});
  }
  const PosePath path(times, poses);
  for (std::size_t i = 0; i < times.size(); ++i) {
    const auto error = test::error_between(path.at(times[i]), poses[i]);
    CHECK(error.position < 1e-12);
    CHECK(error.angle < 1e-7);
  }
  constexpr double h = 1e-5;
  for (std::size_t i = 1; i + 1 < times.size(); ++i) {
    const Twist before = twist_between(path.at(times[i] - h), path.at(times[i]), h);
    const Twist after = twist_between(path.at(times[i]), path.at(times[i] + h), h);
    CHECK((before.velocity - after.velocity).norm() < 1e-3);
    CHECK((before.turning - after.turning).norm() < 1e-2);
  }
}

}  // namespace
}  // namespace er
