// Routines that hang on signals, and steps with others in their stead: every path is planned.
#include <algorithm>
#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/routine_file.hpp"
#include "elbowroom/rehearse/rehearse.hpp"
#include "support/carriages.hpp"
#include "support/demo.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;

namespace {

Step slide(double by) { return {.name = "slide", .action = TurnJoints{{{"x", by}}}}; }

Step when(const std::string& signal, bool is, Step step) {
  step.when.push_back({signal, is});
  return step;
}

Step itself(bool is, Step step) {
  step.when.push_back({"it", is, true});
  return step;
}

// One carriage, begun at x, with both stances at the sides of it.
Verdict<PlannedRoutine> planned_from(double x, std::vector<Step> steps) {
  CellDescription cell;
  cell.arms = {carriage("one", values({x, 0, 0}))};
  Routine routine{.arm = "one"};
  routine.steps = std::move(steps);
  return plan_routine(CellQuery(Cell::build(cell), "one"), routine);
}

Step left_or_right() {
  return {.name = "aside", .action = FreeMove{{AtStance{"left"}, AtStance{"right"}}}};
}

double end_of(const PlannedPath& path, std::size_t step) {
  const Motion& motion = path.steps[step].motion;
  return motion.at(motion.duration()).position[0];
}

}  // namespace

TEST_CASE("a cup goes to the shelf that a signal says, and both ways begin alike") {
  const Routine routine = load_routine(DEMO_DIR "/shelf.routine.yaml", demo_cell());
  CHECK(routine.signals() == std::vector<std::string>{"wet"});
  const auto plan = plan_routine(CellQuery(demo_cell(), "teasel"), routine);
  REQUIRE(plan);
  REQUIRE(plan->paths.size() == 2);
  CHECK(plan->paths[0].text() == "wet: yes");
  CHECK(plan->paths[1].text() == "wet: no");
  CHECK(plan->steps.size() == plan->paths[0].steps.size());
  const double heights[] = {0.47, 0.77};
  for (std::size_t p = 0; p < 2; ++p) {
    const PlannedRoutine path = plan->along(p);
    CHECK(path.instead.empty());
    CHECK(rehearse(demo_cell(), path, {.rate = kSanitized ? 50.0 : 200.0}).passed());
    for (const Body& piece : demo_cell().pieces())
      if (piece.name == "cup_2")
        CHECK(path.place_of(piece, path.duration()).position.z() ==
              Approx(heights[p]).margin(1e-4));
    for (std::size_t i = 0; i < 4; ++i) {
      const Motion& own = path.steps[i].motion;
      const Motion& first = plan->paths[0].steps[i].motion;
      CHECK(own.duration() == first.duration());
      CHECK(own.at(0.4 * own.duration()).position == first.at(0.4 * own.duration()).position);
    }
  }
}

TEST_CASE("what comes before a signal suits whatever it says") {
  // From the left it cannot slide on to the left; from the right it can do both.
  const auto both = planned_from(
      -0.05, {left_or_right(), when("far", true, slide(-0.9)), when("far", false, slide(0.1))});
  REQUIRE(both);
  CHECK(end_of(both->paths[0], 0) == Approx(0.3));
  CHECK(end_of(both->paths[0], 1) == Approx(-0.6));
  CHECK(end_of(both->paths[1], 0) == Approx(0.3));
  CHECK(end_of(both->paths[1], 1) == Approx(0.4));
  // Without the signal the nearer side is taken.
  const auto near = planned_from(-0.05, {left_or_right(), slide(0.1)});
  REQUIRE(near);
  CHECK(near->steps[0].motion.at(9.0).position[0] == Approx(-0.3));
  // Where no side does for both, the answer says on which path.
  const auto none = planned_from(
      -0.05, {left_or_right(), when("far", true, slide(-0.9)), when("far", false, slide(0.9))});
  REQUIRE_FALSE(none);
  CHECK_THAT(none.reason().text,
             StartsWith("no: where far is ") && Contains("joint x would be at"));
}

TEST_CASE("two signals make four paths, and each is planned") {
  const auto plan =
      planned_from(0.0, {when("a", true, slide(0.1)), when("b", true, slide(0.2)), slide(0.4)});
  REQUIRE(plan);
  REQUIRE(plan->paths.size() == 4);
  std::vector<double> ends;
  for (const PlannedPath& path : plan->paths) ends.push_back(end_of(path, path.steps.size() - 1));
  CHECK(ends[0] == Approx(0.7));
  CHECK(ends[1] == Approx(0.5));
  CHECK(ends[2] == Approx(0.6));
  CHECK(ends[3] == Approx(0.4));
  CHECK(plan->paths[2].text() == "a: no, b: yes");
}

TEST_CASE("what cannot be done is replaced, and the answer says why") {
  const auto plan =
      planned_from(0.0, {itself(true, slide(1.4)), itself(false, slide(0.7)), slide(0.1)});
  REQUIRE(plan);
  REQUIRE(plan->steps.size() == 2);
  CHECK(end_of(plan->paths[0], 1) == Approx(0.8));
  REQUIRE(plan->instead.size() == 1);
  CHECK(plan->instead[0].of == "slide");
  CHECK_THAT(plan->instead[0].reason, Contains("joint x would be at 1400.0 mm"));
  // Where it can be done but the whole cannot, it is replaced, too; else it is done.
  const auto later =
      planned_from(0.0, {itself(true, slide(0.8)), itself(false, slide(0.1)), slide(0.5)});
  REQUIRE(later);
  CHECK(end_of(later->paths[0], 1) == Approx(0.6));
  const auto itself_done =
      planned_from(0.0, {itself(true, slide(0.2)), itself(false, slide(0.1)), slide(0.5)});
  REQUIRE(itself_done);
  CHECK(itself_done->instead.empty());
  CHECK(end_of(itself_done->paths[0], 1) == Approx(0.7));
  const auto neither = planned_from(0.0, {itself(true, slide(1.4)), itself(false, slide(1.5))});
  REQUIRE_FALSE(neither);
  // It is replaced on one path alone.
  const auto one_path = planned_from(
      0.0, {when("a", true, slide(0.5)), itself(true, slide(0.7)), itself(false, slide(0.2))});
  REQUIRE(one_path);
  CHECK(one_path->paths[0].instead.size() == 1);
  CHECK(one_path->paths[1].instead.empty());
}

TEST_CASE("no arm begins what hangs on a signal before it is read") {
  Routine routine{.arm = "one"};
  routine.others = {{"two", "home"}};
  routine.at_once = true;
  const Step there = go("two", "far");
  routine.steps = {slide(0.2), there};
  const CellQuery query(carriages(), "one");
  const auto free = plan_routine(query, routine);
  REQUIRE(free);
  CHECK(free->steps[1].begins == 0.0);
  routine.steps[1] = when("go on", true, there);
  const auto hangs = plan_routine(query, routine);
  REQUIRE(hangs);
  CHECK(hangs->steps[1].begins == Approx(hangs->steps[0].ends()));
  CHECK_THAT(hangs->steps[1].waits_for, Contains("a signal is read"));
}

TEST_CASE("files say what hangs on a signal, and what is done instead") {
  const auto read = [](const std::string& steps) {
    return parse_routine("elbowroom: routine/1\nsteps:\n" + steps, "f", demo_cell());
  };
  const Routine routine = read(
      "  - when: wet\n    yes: [{wait: 1 s}]\n"
      "    no:\n      - {go: {stance: over_board}, on_no: [{go: {stance: over_bucket}}]}\n"
      "  - go: {stance: before_kiln}\n");
  REQUIRE(routine.steps.size() == 4);
  CHECK(routine.steps[0].when == std::vector<Condition>{{"wet", true}});
  REQUIRE(routine.steps[1].when.size() == 2);
  CHECK(routine.steps[1].when[1].chosen);
  CHECK(routine.steps[2].when[1].on == routine.steps[1].when[1].on);
  CHECK_FALSE(routine.steps[2].when[1].is);
  CHECK(routine.steps[3].when.empty());

  const auto refused = [&](const std::string& steps, const std::string& what) {
    CHECK_THROWS_WITH(read(steps), Contains(what));
  };
  refused("  - when: wet\n", "nothing hangs on this signal");
  refused("  - {when: wet, yes: [], no: []}\n", "nothing hangs on this signal");
  refused("  - {when: wet, maybe: [{wait: 1 s}]}\n", "unknown key in steps that hang on a signal");
  refused("  - when: wet\n    yes: [{when: wet, yes: [{wait: 1 s}]}]\n",
          "what 'wet' says is known here already");
  std::string many;
  for (int i = 0; i < 7; ++i) many += fmt::format("  - {{when: s{}, yes: [{{wait: 1 s}}]}}\n", i);
  refused(many, "hangs on 7 signals, which makes 128 paths");
  // What is held is looked at on every path.
  refused(
      "  - take: {piece: cup_1}\n  - {when: wet, yes: [{release: cup_1}]}\n"
      "  - release: cup_1\n",
      "'cup_1' is not held");
  refused("  - {grip: cup_1, on_no: [{wait: 1 s}]}\n  - release: cup_1\n", "'cup_1' is not held");
}
