#include "elbowroom/survey/survey.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/target_file.hpp"
#include "support/cells.hpp"

using namespace er;
using Catch::Contains;

TEST_CASE("a survey answers each target as it would be answered alone, whatever the threads") {
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  const CellQuery query(cell, "teasel");
  const auto targets = load_targets(DEMO_DIR "/kiln.targets.yaml", cell);
  const Survey all = survey(query, targets);
  CHECK(all.reached() == 12);
  CHECK(all.summary("home") == "12 of 18 targets can be reached, with a proved route from home");
  for (std::size_t i = 0; i < targets.size(); i += 5) {
    const Survey one = survey(query, {targets[i]});
    CHECK(one.targets[0].name == all.targets[i].name);
    CHECK(one.targets[0].postures == all.targets[i].postures);
    CHECK(one.targets[0].route_length == all.targets[i].route_length);
    CHECK(one.targets[0].reason == all.targets[i].reason);
    const auto direct =
        reach(query, targets[i], {.clearance = 0.005, .from = query.arm().stance("home")});
    CHECK(static_cast<bool>(direct) == (all.targets[i].postures > 0));
    if (direct) CHECK(static_cast<int>(direct->solutions.size()) == all.targets[i].postures);
  }
  CHECK_THAT(
      all.report(),
      Contains("upper_8: no: all 4 postures found that meet the target are too near something"));
}

TEST_CASE("a target with postures but no route from home is a no") {
  // The planar arm's far side is fenced off; its postures there are free all the same.
  const Arm arm = test::planar_arm();
  CellDescription d{.arms = {arm}};
  d.fixtures = {test::box_body("a", {0.9, 0.01, 0.1}, {-0.5, 0.0, 0}),
                test::box_body("b", {0.01, 0.9, 0.1}, {0.0, 0.5, 0}),
                test::box_body("c", {0.01, 0.9, 0.1}, {0.0, -0.5, 0})};
  const CellQuery query(Cell::build(d), "flat");
  const Target behind = Target{}
                            .place("tip", tool_pose(arm, arm.tool(""), test::values({2.4, 0.0})))
                            .within(1e-5, 1e-4)
                            .named("behind");
  const Survey found = survey(query, {behind}, {.tries = 200});
  CHECK(found.targets[0].postures >= 1);
  CHECK_FALSE(found.targets[0].has_route);
  CHECK(found.reached() == 0);
  CHECK_THAT(found.targets[0].reason, Contains("no route found in 200 tries"));
  CHECK(survey(query, {behind}, {.routes = false}).reached() == 1);
}

TEST_CASE("surveys that cannot be made") {
  const CellQuery query(Cell::build({.arms = {test::planar_arm()}}), "flat");
  CHECK_THROWS_WITH(survey(query, {}), Contains("the survey has no targets"));
  CHECK_THROWS_WITH(survey(query, {Target{}.place("tip", {})}, {.from = "hoem"}),
                    Contains("did you mean 'home'?"));
}
