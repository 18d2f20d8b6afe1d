#include "elbowroom/route/tool_curve.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;

namespace {

Target to(const Arm& arm, const Posture& start, const Vector3& shift, double turn = 0.0) {
  const Pose from = tool_pose(arm, arm.tool(""), start);
  return Target{}.place(
      "", {rotation_about(Vector3::UnitZ(), turn) * from.rotation, from.position + shift});
}

}  // namespace

TEST_CASE("the tip follows the line, evenly turned") {
  const Arm arm = wrist_arm();
  const CellQuery query(Cell::build({.arms = {arm}}), "six");
  const Posture start = values({0.2, 0.3, 0.4, 0.3, 0.7, 0.1});
  const Vector3 shift(-0.1, 0.2, 0.05);
  const auto line = follow_line(query, start, to(arm, start, shift, 0.6));
  REQUIRE(line);
  CHECK(line->path.length() == Approx(shift.norm()));
  CHECK(line->path.turn() == Approx(0.6));
  CHECK(line->worst_deviation <= 2e-4);
  const Pose from = tool_pose(arm, arm.tool(""), start);
  double last = -1.0;
  for (int i = 0; i <= 1000; ++i) {
    const Pose is =
        tool_pose(arm, arm.tool(""), line->curve.at(i / 1000.0 * shift.norm()).position);
    const Vector3 way = is.position - from.position;
    const double along = way.dot(shift) / shift.squaredNorm();
    CHECK((way - along * shift).norm() < 3e-4);
    CHECK(along > last - 1e-9);  // never backwards
    const Matrix3 even = rotation_about(Vector3::UnitZ(), 0.6 * along) * from.rotation;
    CHECK(rotation_vector(even.transpose() * is.rotation).norm() < 3e-3);
    last = along;
  }
  CHECK(last == Approx(1.0).margin(1e-6));
  // The parameter is the way of the tip.
  const JointState middle = line->curve.at(0.4 * shift.norm());
  CHECK(point_velocity(arm, arm.end_tool().link_index, arm.end_tool().tip.position, middle.position,
                       middle.velocity)
            .norm() == Approx(1.0).epsilon(1e-3));
}

TEST_CASE("a turn in place is a line too") {
  const Arm arm = wrist_arm();
  const CellQuery query(Cell::build({.arms = {arm}}), "six");
  const Posture start = values({0.2, 0.3, 0.4, 0.3, 0.7, 0.1});
  const auto line = follow_line(query, start, to(arm, start, {0, 0, 0}, 0.4));
  REQUIRE(line);
  CHECK(line->path.length() < 1e-12);
  CHECK(line->path.turn() == Approx(0.4));
}

TEST_CASE("a line that ends early says how far it goes, and why") {
  const Arm arm = planar_arm();
  const CellQuery query(Cell::build({.arms = {arm}}), "flat");
  // Straight out along x from a bent elbow; orientation would have to be kept, which two joints
  // cannot: the branch ends at once.
  const auto line =
      follow_line(query, values({0.5, -1.0}), to(arm, values({0.5, -1.0}), {0.1, 0, 0}));
  REQUIRE_FALSE(line);
  CHECK(line.reason().cause == Cause::off_line);
  CHECK_THAT(line.reason().text,
             StartsWith("no: the straight line can be followed for 0 % of the way"));

  const Arm six = wrist_arm();
  const CellQuery free_query(Cell::build({.arms = {six}}), "six");
  const Posture start = values({0.0, 0.3, 0.4, 0.0, 0.7, 0.0});
  const auto far = follow_line(free_query, start, to(six, start, {2.0, 0, 0}));
  REQUIRE_FALSE(far);
  CHECK_THAT(
      far.reason().text,
      Contains("of 2000.0 mm): there this branch of postures ends (the arm is stretched out"));
  CHECK(far.reason().figures[0].value > 0.05);
  CHECK(far.reason().figures[0].value < 0.5);
}

TEST_CASE("a joint that runs out is named") {
  Link base{.name = "base"};
  Link slide = sliding("slide", {0, 0, 0}, Vector3::UnitX());
  const Arm arm = Arm::build({.name = "rail", .links = {base, slide}, .tools = {{.name = "tip"}}});
  const CellQuery query(Cell::build({.arms = {arm}}), "rail");
  const auto line = follow_line(query, values({0.0}), to(arm, values({0.0}), {0.5, 0, 0}));
  REQUIRE_FALSE(line);
  CHECK_THAT(line.reason().text, Contains("there joint base_to_slide is at its limit of 300.0 mm"));
  const auto fits = follow_line(query, values({0.0}), to(arm, values({0.0}), {0.3, 0, 0}));
  CHECK(fits);
}

TEST_CASE("something in the way is named, and a line is proved for the curve itself") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  const Arm& arm = query.arm();
  const Posture start = arm.stance("over_bucket");
  const auto down = follow_line(query, start, to(arm, start, {0, 0, -0.6}), {.clearance = 0.005});
  REQUIRE_FALSE(down);
  CHECK_THAT(down.reason().text, Contains("something is in the way: teasel."));
  const auto little =
      follow_line(query, start, to(arm, start, {0, 0, -0.05}), {.clearance = 0.005});
  REQUIRE(little);
  PartPoses parts(query);
  for (int i = 0; i <= 2000; ++i)
    CHECK(query.nearest(little->curve.at(i / 2000.0 * 0.05).position, parts).distance > 0.005);
  CHECK_THROWS_WITH(follow_line(query, start, to(arm, start, {0, 0, 0})),
                    StartsWith("the line has no length"));
}
