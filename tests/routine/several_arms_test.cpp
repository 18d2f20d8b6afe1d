// Routines of several arms: in turn, as early as they may, and moves made together.
#include <algorithm>
#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/routine_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/arms_as_one.hpp"
#include "elbowroom/rehearse/rehearse.hpp"
#include "support/carriages.hpp"
#include "support/cells.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;

namespace {

const Cell& kiln_cell() {
  static const Cell cell = load_cell(DEMO_DIR "/kiln.cell.yaml");
  return cell;
}

// The least distance of any two colliding parts of two arms, by brute force.
double between(const Arm& a, const Posture& at_a, const Arm& b, const Posture& at_b) {
  const std::vector<Pose> links_a = link_poses(a, at_a);
  const std::vector<Pose> links_b = link_poses(b, at_b);
  double least = 10.0;
  for (std::size_t i = 0; i < links_a.size(); ++i)
    for (const Part& one : a.links()[i].parts)
      for (std::size_t k = 0; k < links_b.size(); ++k)
        for (const Part& other : b.links()[k].parts)
          if (one.collides && other.collides)
            least = std::min(
                least, distance(one.shape, links_a[i] * one.at, other.shape, links_b[k] * other.at)
                           .distance);
  return least;
}

Routine of_both(std::vector<Step> steps, bool at_once) {
  Routine out{.name = "both", .arm = "one"};
  out.others = {{"two", "home"}};
  out.at_once = at_once;
  out.steps = std::move(steps);
  return out;
}

Verdict<PlannedRoutine> planned(const Routine& routine) {
  return plan_routine(CellQuery(carriages(), "one"), routine);
}

}  // namespace

TEST_CASE("arms as one stand as each of them, and are measured against each other") {
  const Arm& teasel = kiln_cell().arm("teasel");
  const Arm& bracken = kiln_cell().arm("bracken");
  const Cell all = with_arms_as_one(kiln_cell(), {"teasel", "bracken"});
  const CellQuery query(all, "teasel+bracken");
  const CellQuery pair = CellQuery::between_arms(all, "teasel+bracken");
  CHECK(query.arm().dof() == 13);
  RandomStream random(1);
  int meetings = 0;
  for (int i = 0; i < 200; ++i) {
    const Posture a = random_posture(random, teasel);
    const Posture b = random_posture(random, bracken);
    const Posture both = side_by_side({a, b});
    const std::vector<Pose> links = link_poses(query.arm(), both);
    const std::vector<Pose> own = link_poses(bracken, b);
    CHECK((links.back().position - own.back().position).norm() < 1e-12);
    CHECK((links.back().rotation - own.back().rotation).norm() < 1e-12);
    // By each arm alone, with the other one where it is.
    const double apart =
        std::min(CellQuery(kiln_cell(), "teasel", {{"bracken", b}}).nearest(a).distance,
                 CellQuery(kiln_cell(), "bracken", {{"teasel", a}}).nearest(b).distance);
    CHECK(query.nearest(both).distance == Approx(apart).margin(1e-9));
    PartPoses parts(pair);
    const double gap = pair.nearest(both, parts, {.itself = true, .surroundings = false}).distance;
    CHECK(gap == Approx(between(teasel, a, bracken, b)).margin(1e-7));
    meetings += gap < 0.0 ? 1 : 0;
  }
  CHECK(meetings > 0);
  CHECK_THROWS_WITH(arms_as_one({teasel}), StartsWith("one arm alone is one already"));
}

TEST_CASE("curves side by side are each what they were, at rest before and after") {
  RandomStream random(5);
  std::vector<StartedCurve> curves;
  for (int c = 0; c < 3; ++c) {
    std::vector<CurvePiece> pieces;
    for (int p = 0; p < 3; ++p) {
      CurvePiece piece{random.uniform(0.1, 1.0), {}};
      for (int k = 0; k <= c; ++k)
        piece.joints.push_back(
            {random.uniform(-1, 1), random.uniform(-1, 1), 0.5, -0.2, 0.1, 0.02});
      pieces.push_back(std::move(piece));
    }
    curves.push_back({random.uniform(0.0, 1.0), JointCurve(std::move(pieces))});
  }
  const JointCurve all = side_by_side(curves, 5.0);
  CHECK(all.duration() == Approx(5.0));
  CHECK(all.dof() == 6);
  for (int i = 0; i < 500; ++i) {
    const double time = random.uniform(0.0, 5.0);
    const JointState state = all.at(time);
    int first = 0;
    for (const StartedCurve& one : curves) {
      const JointState own = one.curve.at(time - one.begins);
      const bool moves = time > one.begins && time < one.begins + one.curve.duration();
      for (int k = 0; k < one.curve.dof(); ++k) {
        CHECK(state.position[first + k] == Approx(own.position[k]).margin(1e-9));
        CHECK(state.velocity[first + k] == Approx(moves ? own.velocity[k] : 0.0).margin(1e-9));
      }
      first += one.curve.dof();
    }
  }
  CHECK_THROWS_AS(side_by_side(curves, 0.5), InputError);
}

TEST_CASE("two arms share the kiln and never meet, and it takes less time at once") {
  static const Routine routine = [] {
    Routine all = load_routine(DEMO_DIR "/kiln.routine.yaml", kiln_cell());
    if (kSanitized) all.steps.resize(24);  // without the way home
    return all;
  }();
  CHECK(routine.at_once);
  static const auto plan = plan_routine(CellQuery(kiln_cell(), "teasel"), routine);
  REQUIRE(plan);
  double one_by_one = 0.0;
  double before = 0.0;
  for (const PlannedStep& step : plan->steps) {
    one_by_one += step.duration();
    if (step.waits > 0.0) CHECK_FALSE(step.waits_for.empty());
    before = std::max(before, step.waits);
  }
  CHECK(plan->duration() < 0.85 * one_by_one);
  CHECK(before > 0.0);  // somebody has to wait
  const Rehearsal rehearsal = rehearse(kiln_cell(), *plan, {.rate = 200.0});
  INFO(rehearsal.summary());
  CHECK(rehearsal.passed());
  // By brute force, with what is held: whoever moves keeps what its step asks for.
  int near = 0;
  for (double time = 0.0; time < plan->duration(); time += kSanitized ? 0.2 : 0.02) {
    const Cell here = plan->cell_at(kiln_cell(), time);
    double asked = 0.0;
    for (const PlannedStep& step : plan->steps)
      if (step.begins <= time && time <= step.ends()) asked = std::max(asked, step.clearance);
    const double gap = between(here.arm("teasel"), plan->posture_of("teasel", time),
                               here.arm("bracken"), plan->posture_of("bracken", time));
    CHECK(gap >= asked - 1e-9);
    near += gap < 0.05 ? 1 : 0;
  }
  CHECK(near > 0);
  // The motion of all as one is what each of them does.
  const Motion whole = plan->whole();
  CHECK(whole.dof() == 13);
  for (double time = 0.0; time < plan->duration(); time += 0.31)
    CHECK((whole.at(time).position -
           side_by_side({plan->posture_of("teasel", time), plan->posture_of("bracken", time)}))
              .norm() < 1e-9);

  SECTION("begun too early, it is refused") {
    PlannedRoutine hasty = *plan;
    const auto first = std::find_if(hasty.steps.begin(), hasty.steps.end(),
                                    [](const PlannedStep& step) { return step.waits > 0.1; });
    REQUIRE(first != hasty.steps.end());
    const double early = first->waits;
    const std::string arm = routine.arm_of(first->step);
    for (auto step = first; step != hasty.steps.end(); ++step)
      if (routine.arm_of(step->step) == arm) step->begins -= early;
    CHECK_FALSE(rehearse(kiln_cell(), hasty, {.rate = 100.0}).passed());
  }
  SECTION("a part of it alone begins with the other arm where it was planned to be") {
    for (const int number : {4, 9}) {
      const PlannedRoutine part = plan->part(number, number);
      const Rehearsal alone = rehearse(*part.steps.front().cell, part, {.rate = 200.0});
      INFO(alone.summary());
      CHECK(alone.passed());
    }
  }
}

TEST_CASE("arms that stand where the other wants to be change places together") {
  const std::vector<Step> steps{go("one", "right", "swap"), go("two", "left", "swap")};
  std::vector<Step> in_turn = steps;
  for (Step& step : in_turn) step.together.clear();
  const auto no = planned(of_both(in_turn, false));
  REQUIRE_FALSE(no);
  CHECK_THAT(no.reason().text, StartsWith("no: step 1 of 2, one right: ") && Contains("two.z"));
  for (const bool at_once : {false, true}) {
    const auto yes = planned(of_both(steps, at_once));
    REQUIRE(yes);
    REQUIRE(yes->steps.size() == 2);
    CHECK(yes->steps[0].begins == yes->steps[1].begins);
    CHECK(yes->steps[0].duration() == Approx(yes->steps[1].duration()));
    double least = 1.0;
    for (int i = 0; i <= 1000; ++i) {
      const double time = yes->duration() * i / 1000;
      least = std::min(least, (yes->posture_of("one", time) - yes->posture_of("two", time)).norm());
    }
    CHECK(least >= 0.085);  // two radii and the clearance
    CHECK(rehearse(carriages(), *yes).passed());
  }
  // Where a wall leaves no room to pass, the answer is no.
  CellDescription narrow = carriages().description();
  Body walls{.name = "walls"};
  for (const double side : {-1.0, 1.0}) {
    walls.parts.push_back({.shape = Box{{2.0, 0.02, 0.3}}, .at = Pose::at({0, side * 0.06, 0})});
    walls.parts.push_back({.shape = Box{{2.0, 0.3, 0.02}}, .at = Pose::at({0, 0, side * 0.06})});
  }
  narrow.fixtures = {walls};
  const auto none = plan_routine(CellQuery(Cell::build(narrow), "one"), of_both(steps, false));
  REQUIRE_FALSE(none);
  CHECK_THAT(none.reason().text, StartsWith("no: steps 1 to 2 of 2, together (swap): "));
}

TEST_CASE("steps of two arms begin as early as they may, and no earlier") {
  std::vector<Step> steps{go("two", "far"), go("one", "right")};  // two makes room, one comes
  const auto turn = planned(of_both(steps, false));
  REQUIRE(turn);
  CHECK(turn->steps[1].begins == Approx(turn->steps[0].ends()));
  const auto early = planned(of_both(steps, true));
  REQUIRE(early);
  CHECK(early->steps[1].begins < turn->steps[1].begins - 0.2);
  CHECK(rehearse(carriages(), *early).passed());
  // A tenth of a second sooner they would be too near.
  PlannedRoutine sooner = *early;
  if (sooner.steps[1].begins >= 0.1) {
    sooner.steps[1].begins -= 0.1;
    CHECK_FALSE(rehearse(carriages(), sooner).passed());
  }
  // One that waits for the other begins when that is over.
  steps[1].after = {"two far"};
  const auto after = planned(of_both(steps, true));
  REQUIRE(after);
  CHECK(after->steps[1].begins == Approx(after->steps[0].ends()));
  CHECK(after->steps[1].waits_for == "step 1, two far, has to be over");
}

TEST_CASE("a piece that one arm puts down is not taken by the other before") {
  const auto with = [](Step step, Action action) {
    step.name = std::string(kind_of(action));
    step.action = std::move(action);
    return step;
  };
  const Step one{.arm = "one"};
  const Step two{.arm = "two"};
  const Pose there = Pose::at({0.0, 0.3, -0.1});
  const std::vector<Step> steps{
      with(one, FreeMove{{AtGrasp{"block"}}}),
      with(one, Grip{"block", {}, 0.2}),
      with(one, FreeMove{{PieceAt{"block", there}}}),
      with(one, Release{"block", 0.2}),
      with(one, FreeMove{{AtStance{"left"}}}),
      with(two, FreeMove{{AtGrasp{"block"}}}),
      with(two, Grip{"block", {}, 0.2}),
      with(two, FreeMove{{AtStance{"far"}}}),
  };
  Cell cell = carriages();
  CellDescription open = cell.description();
  open.contacts.push_back({"block", "table"});
  cell = Cell::build(open);
  const CellQuery query(cell, "one");
  for (const bool at_once : {false, true}) {
    Routine routine = of_both(steps, at_once);
    routine.clearance = 0.001;
    const auto plan = plan_routine(query, routine);
    INFO((plan ? std::string() : plan.reason().text));
    REQUIRE(plan);
    REQUIRE(plan->steps.size() == 8);
    CHECK(plan->steps[6].begins >= plan->steps[3].ends() - 1e-9);
    const Rehearsal rehearsal = rehearse(cell, *plan);
    INFO(rehearsal.summary());
    CHECK(rehearsal.passed());
    const Body& block = cell.pieces().front();
    CHECK((plan->place_of(block, plan->steps[4].begins).position - there.position).norm() < 1e-6);
    CHECK((plan->place_of(block, plan->duration()).position - Vector3(0.6, 0.6, -0.08)).norm() <
          0.05);
    // Taken before it is there, it is gripped beside its grasps.
    if (!at_once) continue;
    PlannedRoutine hasty = *plan;
    for (std::size_t i = 5; i < 8; ++i) hasty.steps[i].begins -= 0.5 * plan->steps[3].ends();
    const Rehearsal refused = rehearse(cell, hasty);
    CHECK_THAT(refused.summary(), StartsWith("no: "));
    CHECK(std::any_of(refused.steps.begin(), refused.steps.end(), [](const RehearsedStep& step) {
      return step.fault == "block is gripped while one holds it";
    }));
  }
  Routine greedy = of_both(steps, false);
  greedy.steps.erase(greedy.steps.begin() + 3);
  CHECK_THROWS_WITH(plan_routine(query, greedy), StartsWith("'block' is held by arm 'one'") ||
                                                     StartsWith("'block' is held by arm"));
}

TEST_CASE("files of two arms say whose step each is") {
  const auto read = [](const std::string& text) {
    return parse_routine("elbowroom: routine/1\n" + text, "f", kiln_cell());
  };
  const std::string arms = "arms: [{arm: teasel}, {arm: bracken, start: ready}]\n";
  const Routine routine = read(arms +
                               "at_once: yes\nsteps:\n"
                               "  - {arm: teasel, go: {stance: over_board}}\n"
                               "  - of: way\n    arm: bracken\n    after: go to over_board\n"
                               "    steps: [{go: {stance: home}}, {go: {stance: ready}}]\n");
  CHECK(routine.arms() == std::vector<std::string>{"teasel", "bracken"});
  CHECK(routine.others.front().start == "ready");
  CHECK(routine.at_once);
  CHECK(routine.steps[1].arm == "bracken");
  CHECK(routine.steps[1].after == std::vector<std::string>{"go to over_board"});
  CHECK(routine.steps[2].after.empty());

  const auto refused = [&](const std::string& text, const std::string& what) {
    CHECK_THROWS_WITH(read(text), Contains(what));
  };
  const std::string go_home = "steps: [{arm: teasel, go: {stance: over_board}}]\n";
  refused(arms + "steps:\n  - go: {stance: home}\n", "this step does not say whose it is");
  refused(arms + "steps:\n  - {arm: brackn, go: {stance: home}}\n", "unknown arm that takes part");
  refused(arms + "steps:\n  - {arm: bracken, go: {stance: over_board}}\n", "unknown stance");
  refused("arms: [{arm: teasel}]\n" + go_home, "several arms are two or more");
  refused("arms: [{arm: teasel}, {arm: teasel}]\n" + go_home, "takes part twice");
  refused("arm: teasel\n" + arms + go_home, "'arm' is said under arms:");
  refused("arm: teasel\nat_once: yes\nsteps: [{go: {stance: over_board}}]\n",
          "one arm alone does nothing at once");
  refused("arm: teasel\nsteps: [{go: {stance: over_board}, after: x}]\n", "here is one alone");
  refused(arms + "steps:\n  - {arm: teasel, go: {stance: over_board}, after: nothing}\n",
          "unknown step of another arm before this one 'nothing'");
  refused(arms + "steps:\n  - {arm: teasel, go: {stance: over_board}, together: both}\n",
          "no step of another arm is made together with this one");
  refused(arms + "steps:\n  - {arm: teasel, wait: 1 s, together: both}\n",
          "only free moves (go) are made together");
  refused(arms +
              "steps:\n  - {arm: teasel, go: {stance: over_board}, together: both}\n"
              "  - {arm: teasel, go: {stance: home}, together: both}\n",
          "has two steps that are made together");
  const std::string both = "together: both}\n  - {arm: bracken, go: {stance: home}, together: both";
  refused(arms + "steps:\n  - {arm: teasel, go: {stance: over_board}, tool_speed: 0.1 m/s, " +
              both + "}\n",
          "has no cost, no tool speed");
  refused(arms + "steps:\n  - {arm: teasel, go: {stance: over_board}, profile: quintic, " + both +
              "}\n",
          "('both') have one profile");
  refused(arms + "targets: [{name: x, arm: brackn, position: [1 m, 0, 1 m]}]\n" + go_home,
          "unknown arm that takes part");
}
