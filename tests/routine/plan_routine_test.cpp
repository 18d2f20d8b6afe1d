// Routines planned whole: what is held, what may touch, which ways are taken, and what a no says.
#include <algorithm>
#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/twist.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/routine_file.hpp"
#include "elbowroom/rehearse/rehearse.hpp"
#include "elbowroom/routine/drawing.hpp"
#include "support/cells.hpp"
#include "support/demo.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;

namespace {

const CellQuery& teasel() {
  static const CellQuery query(demo_cell(), "teasel");
  return query;
}

Routine routine_of(const std::string& steps, const std::string& head = "") {
  return parse_routine("elbowroom: routine/1\nclearance: 4 mm\n" + head + "steps:\n" + steps, "f",
                       demo_cell());
}

const PlannedRoutine& glazing() {
  static const PlannedRoutine planned =
      plan_routine(teasel(), load_routine(DEMO_DIR "/glaze.routine.yaml", demo_cell())).value();
  return planned;
}

const Body& cup(const Cell& cell, const std::string& name) {
  for (const Body& piece : cell.pieces())
    if (piece.name == name) return piece;
  throw InputError("no such cup");
}

double apart(const Pose& a, const Pose& b) {
  const Twist twist = twist_between(a, b, 1.0);
  return twist.velocity.norm() + twist.turning.norm();
}

}  // namespace

TEST_CASE("a cup is taken, dipped, drained and set on the shelf, and every step passes") {
  const PlannedRoutine& planned = glazing();
  const Rehearsal rehearsal = rehearse(demo_cell(), planned, {.rate = 300.0});
  INFO(rehearsal.summary());
  CHECK(rehearsal.passed());
  CHECK(rehearsal.steps.size() == 16);
  // It stands where it was asked to, whichever way it is turned.
  const Body& piece = cup(demo_cell(), "cup_2");
  const Pose last = planned.place_of(piece, planned.duration());
  CHECK((last.position - Vector3(0.25, -0.625, 0.77)).norm() < 1e-5);
  CHECK(last.rotation(2, 2) > 1.0 - 1e-9);
  // In the hand it does not move against the tool, and it is dipped below the rim.
  const Arm& arm = teasel().arm();
  const auto in_tool = [&](double time) {
    return tool_pose(arm, arm.tool("grip"), planned.whole().at(time).position).inverse() *
           planned.place_of(piece, time);
  };
  const std::vector<double> ends = planned.ends();
  double lowest = 1.0;
  for (double time = ends[2] + 0.01; time < ends[12]; time += 0.1) {
    CHECK(apart(in_tool(time), in_tool(ends[2] + 0.01)) < 1e-9);
    lowest = std::min(lowest, planned.place_of(piece, time).position.z());
  }
  CHECK(lowest == Approx(0.54 - 0.13).margin(1e-4));
  // Before it is gripped it stands where it stood.
  CHECK(apart(planned.place_of(piece, 0.5 * ends[1]), piece.at) == 0.0);
}

TEST_CASE("contacts are excused for the step that means them alone, and are listed") {
  const Rehearsal rehearsal = rehearse(demo_cell(), glazing(), {.rate = 100.0});
  std::vector<std::string> listed;
  for (const RehearsedStep& step : rehearsal.steps)
    for (const ExcusedContact& one : step.excused) {
      listed.push_back(fmt::format("{} {} {}", step.number, one.pair.first, one.pair.second));
      CHECK(one.least > -1e-4);
    }
  CHECK(listed ==
        std::vector<std::string>{"2 teasel.gripper cup_2", "3 teasel.gripper cup_2",
                                 "4 teasel.cup_2 ware_board", "13 teasel.cup_2 kiln_upper_shelf",
                                 "14 teasel.cup_2 kiln_upper_shelf", "15 teasel.gripper cup_2"});
  CHECK_THAT(rehearsal.report(demo_cell()),
             Contains("step 4: teasel.cup_2, ware_board (they touch)"));
}

TEST_CASE("a rehearsal keeps account of what is held by itself") {
  // The cup is not where it was when the routine was planned: it is gripped beside its place.
  const Body& piece = cup(demo_cell(), "cup_2");
  const Cell moved =
      demo_cell().with_body_at("cup_2", Pose::at(piece.at.position + Vector3(0.02, 0, 0)));
  const Rehearsal off = rehearse(moved, glazing(), {.rate = 100.0});
  CHECK_FALSE(off.passed());
  CHECK_THAT(off.steps[2].fault,
             Contains("cup_2 is gripped 20.0 mm beside the nearest of its grasps"));
  // Fingers may touch it, and no more.
  const Cell wide =
      demo_cell().with_body_at("cup_2", Pose::at(piece.at.position + Vector3(0.03, 0.03, 0)));
  const Rehearsal deep = rehearse(wide, glazing(), {.rate = 100.0});
  CHECK(std::any_of(deep.steps.begin(), deep.steps.end(), [](const RehearsedStep& step) {
    return step.fault.find("teasel.gripper and cup_2 may touch, but are ") != std::string::npos;
  }));
  // A lid over the upper shelf, which the planner never saw: what is held hits it, too.
  CellDescription lidded = demo_cell().description();
  lidded.fixtures.push_back({.name = "lid",
                             .at = Pose::at({0.25, -0.50, 0.80}),
                             .parts = {{.shape = Box{{0.3, 0.005, 0.1}}}}});
  const Rehearsal hit = rehearse(Cell::build(lidded), glazing(), {.rate = 200.0});
  CHECK_FALSE(hit.passed());
  CHECK(std::any_of(hit.steps.begin(), hit.steps.end(), [](const RehearsedStep& step) {
    return step.fault.find(", lid are ") != std::string::npos;
  }));
}

TEST_CASE("planning is the same every time, and a step can be looked at alone") {
  const auto again = plan_routine(teasel(), glazing().routine);
  REQUIRE(again);
  REQUIRE(again->steps.size() == glazing().steps.size());
  for (std::size_t i = 0; i < again->steps.size(); ++i) {
    const auto& a = again->steps[i].motion.pieces();
    const auto& b = glazing().steps[i].motion.pieces();
    REQUIRE(a.size() == b.size());
    for (std::size_t p = 0; p < a.size(); ++p) REQUIRE(a[p].joints == b[p].joints);
  }
  const PlannedRoutine carry = glazing().part(5, 5);
  REQUIRE(carry.steps.size() == 1);
  CHECK(rehearse(*carry.steps[0].cell, carry, {.rate = 100.0}).passed());
  CHECK_THROWS_AS(glazing().part(3, 40), InputError);
}

TEST_CASE("pieces are found elsewhere, and the verdict holds for all that is not known of them") {
  const Routine routine = routine_of("  - take: {piece: cup_1, from: 100 mm, raise: 60 mm}\n");
  const Pose there = Pose::at({0.0, 0.50, 0.56});
  const auto planned = plan_routine(teasel(), routine,
                                    {.pieces = {{.piece = "cup_1", .at = there, .within = 0.001}}});
  REQUIRE(planned);
  CHECK(planned->uncertainty == Approx(0.001));
  const Cell cell = demo_cell().with_body_at("cup_1", there);
  CHECK(rehearse(cell, *planned, {.rate = 100.0}).passed());
  CHECK((planned->place_of(cup(cell, "cup_1"), planned->duration()).position -
         (there.position + Vector3(0, 0, 0.06)))
            .norm() < 1e-5);
  // Wherever it is within a millimetre, the fingers keep what the step asks for on their way in.
  for (const Vector3& way : {Vector3(1, 0, 0), Vector3(0, -1, 0), Vector3(-0.6, 0.8, 0)}) {
    const Cell off = cell.with_body_at("cup_1", Pose::at(there.position + 0.001 * way));
    PlannedRoutine to_it = planned->part(1, 2);
    to_it.uncertainty = 0.0;
    CHECK(rehearse(off, to_it, {.rate = 200.0}).passed());
  }
  // Fingers are 5 mm from a cup on each side: one that may be 7 mm off would be pushed over.
  const Routine wide =
      routine_of("  - take: {piece: cup_4, from: 100 mm, raise: 60 mm}\n", "start: over_board\n");
  const auto pushed =
      plan_routine(teasel(), wide, {.pieces = {{.piece = "cup_4", .within = 0.007}}});
  REQUIRE_FALSE(pushed);
  CHECK_THAT(pushed.reason().text,
             Contains("teasel.gripper and cup_4 may touch, but would be 2.0 mm deep in each other "
                      "where pieces are as far off as they may be"));
  PlannedRoutine unsure = *planned;
  unsure.uncertainty = 0.007;
  CHECK_THAT(rehearse(cell, unsure, {.rate = 100.0}).steps[1].fault,
             Contains(" may touch, but are 2.0 mm deep in each other"));
  CHECK_THROWS_AS(plan_routine(teasel(), routine, {.pieces = {{.piece = "cup_9"}}}), InputError);
  CHECK_THROWS_AS(plan_routine(teasel(), routine, {.pieces = {{.piece = "cup_1", .within = -1.0}}}),
                  InputError);
}

TEST_CASE("the grasp that works for the whole is taken, though another is quicker at first") {
  const auto planned = plan_routine(
      teasel(), routine_of("  - take: {piece: cup_2, from: 100 mm, raise: 90 mm}\n"
                           "  - put: {piece: cup_2, in: upper_shelf, at: [0, -70 mm, 0], turn: "
                           "free, lower: 20 mm, back: 110 mm}\n"
                           "    clearance: 3 mm\n"));
  REQUIRE(planned);
  CHECK_THAT(planned->steps[0].how, StartsWith("slanted"));
  const auto no = plan_routine(
      teasel(), routine_of("  - take: {piece: cup_2, grasps: from_above, from: 100 mm, raise: 90 "
                           "mm}\n"
                           "  - put: {piece: cup_2, in: upper_shelf, at: [0, -70 mm, 0], turn: "
                           "free, lower: 20 mm, back: 110 mm}\n"));
  REQUIRE_FALSE(no);
  CHECK(no.reason().cause == Cause::step_refused);
  CHECK_THAT(no.reason().text,
             StartsWith("no: step 5 of 8, carry cup_2: none of the ") && Contains("kiln"));
}

TEST_CASE("steps that cannot be done say why") {
  const auto text = [](const std::string& steps) {
    const auto planned = plan_routine(teasel(), routine_of(steps));
    return planned ? std::string("yes") : planned.reason().text;
  };
  CHECK_THAT(
      text("  - grip: cup_1\n"),
      StartsWith("no: step 1 of 1, grip cup_1: 'grip' is not at any grasp of cup_1: it is "));
  CHECK_THAT(text("  - take: {piece: cup_1, raise: 60 mm}\n  - release: cup_1\n"),
             Contains("step 5 of 5, release cup_1") && Contains("cup_1 would fall"));
  CHECK_THAT(text("  - take: {piece: cup_1, raise: 60 mm}\n  - line: {by: [0, 0, -60 mm]}\n"),
             Contains("step 5 of 5, line along world") && Contains("teasel.cup_1 and ware_board"));
  CHECK_THAT(text("  - go: {stance: home}\n"), Contains("the arm is already there"));
  CHECK_THAT(text("  - turn_joints: {wrist_bend: 60 deg}\n"),
             Contains("joint wrist_bend would be at 150.00 deg, limit 120.00 deg"));
  CHECK(text("  - turn_joints: {wrist_bend: 20 deg}\n  - wait: 1 s\n  - go: start\n") == "yes");
}

TEST_CASE("what may touch may not go into each other") {
  // Put 20 mm into the board: touching is meant there, sinking in is not.
  const auto planned = plan_routine(
      teasel(),
      routine_of("  - take: {piece: cup_1, from: 100 mm, raise: 90 mm}\n"
                 "  - put: {piece: cup_1, in: board, at: [-160 mm, -50 mm, -20 mm], turn: "
                 "free, lower: 90 mm}\n"));
  REQUIRE_FALSE(planned);
  CHECK_THAT(
      planned.reason().text,
      Contains("cup_1: none of the ") &&
          Contains("teasel.cup_1 and ware_board may touch, but would be 20.0 mm deep in each "
                   "other"));
}

TEST_CASE("an earlier choice that would have to change is named") {
  // The slanted grasps would do for the shelf; but they are ruled out by how far the arm must
  // raise.
  const auto no =
      plan_routine(teasel(), routine_of("  - go: {stance: over_board}\n"
                                        "  - take: {piece: cup_2, from: 100 mm, raise: 700 mm}\n"));
  REQUIRE_FALSE(no);
  CHECK_THAT(no.reason().text, StartsWith("no: step 5 of 5, raise cup_2: ") &&
                                   Contains("the straight line can be followed for"));
}

TEST_CASE("steps are repeated, and every cup has its line") {
  const Routine routine = load_routine(DEMO_DIR "/ware.routine.yaml", demo_cell());
  REQUIRE(routine.steps.size() == 49);
  const auto planned = plan_routine(teasel(), routine);
  REQUIRE(planned);
  const Rehearsal rehearsal = rehearse(demo_cell(), *planned, {.rate = 100.0});
  INFO(rehearsal.summary());
  CHECK(rehearsal.passed());
  CHECK_THAT(rehearsal.report(demo_cell()), Contains("cup_6: 8 steps"));
  CHECK_THAT(rehearsal.report(demo_cell(), true), Contains("release cup_6"));
  for (int n = 1; n <= 6; ++n) {
    const Body& piece = cup(demo_cell(), fmt::format("cup_{}", n));
    const Vector3 last = planned->place_of(piece, planned->duration()).position;
    CHECK((last - Vector3(0.25 + 0.12 * ((n - 1) % 3 - 1), -0.625, n <= 3 ? 0.47 : 0.77)).norm() <
          1e-5);
  }
}

TEST_CASE("a word and a mark are drawn as they were asked for") {
  Routine routine = load_routine(DEMO_DIR "/mark.routine.yaml", demo_cell());
  REQUIRE(routine.drawings.size() == 2);
  if (kSanitized)  // the word takes long there
    for (Step& step : routine.steps) step.on = step.drawing == 1 || step.of != "KILN 2";
  const auto planned = plan_routine(teasel(), routine);
  REQUIRE(planned);
  CHECK(rehearse(demo_cell(), *planned, {.rate = 100.0}).passed());
  for (int k = kSanitized ? 1 : 0; k < 2; ++k) {
    const Drawing& drawing = routine.drawings[static_cast<std::size_t>(k)];
    const DrawnError error = drawn_error(*planned, k);
    CHECK(error.worst < 3e-4);
    CHECK(error.mean < error.worst);
    CHECK(error.left_out < 3e-4);
    CHECK(error.length == Approx(length_of(drawing.strokes)).epsilon(2e-3));
    // By hand: with the brush down, the tip is on the plane; lifted, it is above.
    for (const PlannedStep& step : planned->steps) {
      const Vector3 tip =
          drawing.on.inverse() * tool_pose(teasel().arm(), teasel().arm().tool("grip"),
                                           step.motion.at(0.5 * step.duration()).position)
                                     .position;
      if (step.step.drawing == k) CHECK(std::abs(tip.z()) < 2e-4);
      if (step.step.of == drawing.name && step.step.name == "over")
        CHECK(tip.z() == Approx(0.025).margin(2e-4));
    }
  }
  // An arm that cannot lift draws one stroke, and is told where there are more.
  Drawing one = routine.drawings[1];
  one.lift = 0.0;
  CHECK(steps_of(one, 0, {}).size() < steps_of(routine.drawings[1], 0, {}).size());
  Drawing word = routine.drawings[0];
  word.lift = 0.0;
  CHECK_THROWS_WITH(steps_of(word, 0, {}), Contains("this is not one stroke: there is a gap of "));
}

TEST_CASE("that an open turn would do is told where it does, the motors' limits among it") {
  // The tool is to turn by a radian, and its last joint has a fifth of one.
  ArmDescription arm = teasel().arm().description();
  const int last = teasel().arm().moving_link(5);
  const int shoulder = teasel().arm().moving_link(1);
  JointLimits& turn = arm.links[static_cast<std::size_t>(last)].joint.limits;
  turn.lower = -0.2;
  turn.upper = 0.2;
  arm.stances = {{"home", teasel().arm().stance("home")}};
  Step step{.name = "turn"};
  step.tool = "grip";
  step.action = RelativeMove{
      .by = {0, 0, -0.02}, .turned = rotation_about(Vector3::UnitZ(), 1.0), .in = "tool"};
  const Routine routine{.name = "turn", .arm = "teasel", .start = "home", .steps = {step}};
  const auto remedies_of = [&] {
    const CellQuery query(Cell::build({.arms = {Arm::build(arm)}}), "teasel");
    const auto planned = plan_routine(query, routine);
    REQUIRE_FALSE(planned);
    INFO(planned.reason().text);
    return planned.reason().remedies;
  };
  REQUIRE(remedies_of().size() == 1);
  CHECK(remedies_of()[0].text ==
        "for this step alone: leave the turn about the tool's axis open along the way");
  arm.links[static_cast<std::size_t>(shoulder)].joint.limits.torque = 0.1;
  CHECK(remedies_of().empty());
}
