// Posture changes in place, and the room that paths take up.
#include "elbowroom/route/posture_change.hpp"

#include <catch2/catch.hpp>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;

TEST_CASE("the room of a path holds every part at every moment, and is not much larger") {
  RandomStream random(6);
  const CellQuery query(clutter_cell(Clutter::cavity), "");
  const Arm& arm = query.arm();
  constexpr double kWithin = 0.004;
  for (int i = 0; i < 6; ++i) {
    const std::vector<Posture> way{random_posture(random, arm), random_posture(random, arm),
                                   random_posture(random, arm)};
    const AlignedBox room = swept_room(query, way, kWithin);
    const double infinity = std::numeric_limits<double>::infinity();
    AlignedBox seen{Vector3::Constant(infinity), Vector3::Constant(-infinity)};
    for (std::size_t k = 0; k + 1 < way.size(); ++k)
      for (int s = 0; s <= 2000; ++s) {
        const auto links = link_poses(arm, Posture(way[k] + s / 2000.0 * (way[k + 1] - way[k])));
        for (const MovingPart& part : query.pairs().moving)
          if (!part.lever.isZero(0.0))
            seen = seen.with(
                aligned_box(part.shape, links[static_cast<std::size_t>(part.link)] * part.at));
      }
    CHECK((room.low.array() <= seen.low.array()).all());
    CHECK((room.high.array() >= seen.high.array()).all());
    CHECK((seen.low - room.low).maxCoeff() < 2.0 * kWithin + 2e-3);
    CHECK((room.high - seen.high).maxCoeff() < 2.0 * kWithin + 2e-3);
  }
  CHECK(text_of(AlignedBox{{-0.1004, 0.0, 0.25}, {0.2001, 1.0, 0.3}}) ==
        "x -101 to 201 mm, y 0 to 1000 mm, z 250 to 300 mm");
  CHECK_THROWS_AS(swept_room(query, {}), InputError);
}

TEST_CASE("the tool ends where it began, on the branch that was asked for") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  const Arm& arm = query.arm();
  const Posture start = arm.stance("over_bucket");
  const auto change = change_posture(query, start, "-", {.clearance = 0.005});
  REQUIRE(change);
  CHECK(change->from == "front, up, +");
  CHECK(change->to == "front, up, -");
  CHECK_THAT(change->legend, Contains("wrist"));
  const auto& way = change->route.waypoints;
  CHECK(way.front() == start);
  const Pose before = tool_pose(arm, arm.tools().front(), way.front());
  const Pose after = tool_pose(arm, arm.tools().front(), way.back());
  CHECK((after.position - before.position).norm() < 1e-8);
  CHECK((after.rotation - before.rotation).norm() < 1e-8);
  CHECK((way.back() - start).norm() > 1.0);
  CHECK(change->off > 0.05);
  for (const Posture& q : way)
    for (const Tool& tool : arm.tools())
      CHECK(change->room.holds(tool_pose(arm, tool, q).position -
                               0.08 * tool_pose(arm, tool, q).rotation.col(2)));

  const auto other = change_posture(query, start, "", {.clearance = 0.005});
  REQUIRE(other);
  CHECK(other->to != other->from);

  const auto none = change_posture(query, start, "back", {.clearance = 0.005});
  REQUIRE_FALSE(none);
  CHECK_THAT(none.reason().text,
             StartsWith("no: with the tool where it is there is no posture 'back'"));
  REQUIRE_FALSE(none.reason().details.empty());
  CHECK(none.reason().details.front() == "there are: front, up, -");

  const auto blocked = change_posture(query, start, "-", {.clearance = 0.5});
  REQUIRE_FALSE(blocked);
  CHECK(blocked.reason().cause == Cause::start_blocked);
}

TEST_CASE("an arm whose elbow folds the other way, unless something is there") {
  const Cell cell = load_cell(DEMO_DIR "/sedge.cell.yaml");
  const CellQuery query(cell, "sedge");
  const double deg = std::numbers::pi / 180.0;
  const Posture start = values({10.0 * deg, 60.0 * deg, -40.0 * deg});
  const auto change = change_posture(query, start, "", {.clearance = 0.005});
  REQUIRE(change);
  const Posture folded = change->route.waypoints.back();
  CHECK(folded[1] == Approx(-60.0 * deg).margin(1e-6));
  // A ball where the elbow comes to.
  CellDescription description;
  description.arms = cell.arms();
  description.fixtures = cell.fixtures();
  description.contacts = cell.contacts();
  const int elbow = query.arm().moving_link(1);
  description.fixtures.push_back(
      {.name = "ball",
       .at = Pose::at(frame_pose(query.arm(), elbow, Pose{}, folded).position),
       .parts = {{.shape = Sphere{0.02}}}});
  const CellQuery barred(Cell::build(description), "sedge");
  const auto none = change_posture(barred, start, "", {.clearance = 0.005});
  REQUIRE_FALSE(none);
  CHECK_THAT(none.reason().text, Contains("there is no other posture to go to than '+'"));
  CHECK_THAT(fmt::format("{}", none.reason()), Contains("-: sedge.") && Contains("and ball"));
}
