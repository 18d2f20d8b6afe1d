// Routines planned, rehearsed, and spoiled on purpose: a rehearsal must find what is wrong with a
// plan, whoever made it.
#include "elbowroom/rehearse/rehearse.hpp"

#include <algorithm>
#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/routine_file.hpp"
#include "elbowroom/files/target_file.hpp"
#include "elbowroom/pace/motor_use.hpp"
#include "elbowroom/rehearse/replay_clearance.hpp"
#include "support/cells.hpp"
#include "support/demo.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;

namespace {

const CellQuery& demo_query() {
  static const CellQuery query(demo_cell(), "teasel");
  return query;
}
const PlannedRoutine& demo_plan() {
  static const PlannedRoutine planned =
      plan_routine(demo_query(), load_routine(DEMO_DIR "/dip.routine.yaml", demo_cell())).value();
  return planned;
}

Routine planar_routine(std::vector<Step> steps) {
  return {.name = "r", .arm = "flat", .start = "home", .steps = std::move(steps)};
}

Step go(const std::string& stance) {
  return {.name = "go to " + stance, .action = FreeMove{{AtStance{stance}}}};
}

CellQuery planar_query(const std::vector<Body>& fixtures = {}) {
  ArmDescription d{.name = "flat", .links = planar_arm().links(), .tools = planar_arm().tools()};
  d.stances = {
      {"home", values({0.0, 0.0})}, {"side", values({1.2, 0.0})}, {"folded", values({0.0, 2.6})}};
  return {Cell::build({.arms = {Arm::build(d)}, .fixtures = fixtures}), "flat"};
}

}  // namespace

TEST_CASE("the demo routine passes, and its steps join") {
  const PlannedRoutine& planned = demo_plan();
  REQUIRE(planned.steps.size() == 10);
  const Rehearsal rehearsal = rehearse(demo_cell(), planned);
  CHECK(rehearsal.passed());
  CHECK_THAT(rehearsal.summary(), StartsWith("yes: 10 steps in "));
  CHECK(rehearsal.duration == Approx(planned.duration()));
  CHECK(static_cast<double>(rehearsal.ticks) > 1000.0 * planned.duration());
  const Motion whole = planned.whole();
  CHECK(whole.duration() == Approx(planned.duration()));
  CHECK((whole.at(whole.duration()).position - demo_query().arm().stance("home")).norm() < 1e-9);
  // The tip really goes where the routine's lines say: into the glaze, 60 mm below the rim.
  double until = 0.0;
  for (int i = 0; i < 5; ++i) until += planned.steps[static_cast<std::size_t>(i)].motion.duration();
  const Pose tip =
      tool_pose(demo_query().arm(), demo_query().arm().tool("grip"), whole.at(until).position);
  CHECK((tip.position - Vector3(0.52, 0.13, 0.48)).norm() < 1.1e-4);
}

TEST_CASE("planning again gives the same motion to the last bit") {
  const auto again = plan_routine(demo_query(), demo_plan().routine);
  REQUIRE(again);
  for (std::size_t s = 0; s < again->steps.size(); ++s)
    for (std::size_t p = 0; p < again->steps[s].motion.pieces().size(); ++p)
      REQUIRE(again->steps[s].motion.pieces()[p].joints ==
              demo_plan().steps[s].motion.pieces()[p].joints);
}

TEST_CASE("round corners make the demo routine quicker, and it still passes") {
  Routine routine = load_routine(DEMO_DIR "/dip.routine.yaml", demo_cell());
  const double before = plan_routine(demo_query(), routine)->duration();
  routine.profile = Profile::time_optimal;
  const double with_stops = plan_routine(demo_query(), routine)->duration();
  routine.corners = CornerBounds{.angle = 10.0_deg};
  const auto planned = plan_routine(demo_query(), routine);
  REQUIRE(planned);
  CHECK(with_stops < before);
  CHECK(planned->duration() <= with_stops);
  CHECK(rehearse(demo_cell(), *planned, {.rate = 200.0}).passed());
}

TEST_CASE("a rehearsal finds a motion that was made too fast") {
  PlannedRoutine spoiled = demo_plan();
  spoiled.steps[0].motion = spoiled.steps[0].motion.stretched(0.9);
  const Rehearsal rehearsal = rehearse(demo_cell(), spoiled);
  CHECK_FALSE(rehearsal.passed());
  CHECK_THAT(rehearsal.summary(),
             StartsWith("no: step 1 of 10, go to above_cup: joint ") && Contains("% of its"));
}

TEST_CASE("a rehearsal measures the rules of a step by itself") {
  PlannedRoutine spoiled = demo_plan();
  Step& step = spoiled.steps[3].step;
  REQUIRE(step.keep.size() == 1);
  CHECK(rehearse(demo_cell(), spoiled).passed());
  auto& direction = std::get<InDirection>(step.keep.front().holds);
  direction.angle.upper = 0.1 * direction.angle.upper;
  CHECK_THAT(rehearse(demo_cell(), spoiled).summary(),
             StartsWith("no: step 4 of 10, go to above_glaze: rule 'upright' is off by ") &&
                 Contains(" deg at "));
  step.keep.front().holds = JointBands{{{.joint = "waist", .value = Band{-0.1, 1.0}}}};
  CHECK_THAT(rehearse(demo_cell(), spoiled).summary(),
             Contains("a joint leaves the band of a rule at 2.347 s"));
}

TEST_CASE("a rehearsal finds what was moved into the way after planning") {
  // The wall goes to where the gripper is half way through step 4.
  const double time = 0.5 * demo_plan().steps[3].motion.duration();
  const Posture there = demo_plan().steps[3].motion.at(time).position;
  const Arm& arm = demo_cell().arm("teasel");
  const Vector3 tip = tool_pose(arm, arm.tool(""), there).position;
  const auto& fixtures = demo_cell().fixtures();
  const Body& wall = *std::find_if(fixtures.begin(), fixtures.end(),
                                   [](const Body& one) { return one.name == "splash_wall"; });
  const Cell moved =
      demo_cell().with_body_at("splash_wall", Pose::at(tip - wall.parts[0].at.position));
  const Rehearsal rehearsal = rehearse(moved, demo_plan());
  CHECK_FALSE(rehearsal.passed());
  CHECK_THAT(rehearsal.summary(), StartsWith("no: step ") && Contains("splash_wall are "));
  CHECK_THAT(rehearsal.steps[3].fault, Contains("splash_wall are "));
}

TEST_CASE("a rehearsal finds a step that does not begin where the last one ended") {
  PlannedRoutine spoiled = demo_plan();
  spoiled.steps.erase(spoiled.steps.begin() + 3);
  const Rehearsal rehearsal = rehearse(demo_cell(), spoiled);
  CHECK_THAT(rehearsal.summary(), Contains("it does not begin where the step before it ends"));
}

TEST_CASE("a rehearsal finds a joint driven out of its range, and a jump of acceleration") {
  PlannedRoutine spoiled{planar_routine({go("side")}), {}};
  spoiled.steps.push_back(
      {go("side"), 0.0, Motion({{10.0, {{0, 0, 0.12, -0.008, 0, 0}, Quintic{}}}}), 0, 0, 1});
  const CellQuery query = planar_query();
  const Rehearsal out = rehearse(query.cell(), spoiled);
  CHECK_THAT(out.steps[0].fault,
             Contains("joint base_to_upper would be at") && Contains("limit 171.89 deg"));
  spoiled.steps[0].motion = Motion({{0.001, {{0, 0.5, 0, 0, 0, 0}, Quintic{}}}});
  const Rehearsal jump = rehearse(query.cell(), spoiled);
  CHECK_THAT(jump.steps[0].fault,
             Contains("of its acceleration limit"));  // from rest to 0.5 rad/s at once
}

TEST_CASE("a frame's speed is kept by the plan, and measured again by the rehearsal") {
  const CellQuery query = planar_query();
  Step side = go("side");
  side.keep_speeds = {{"slow tip", "", Vector3::Zero(), 0.2},
                      {"a piece not held", "cup", Vector3::Zero(), 0.01}};
  const auto free = plan_routine(query, planar_routine({go("side"), go("home")}));
  const auto planned = plan_routine(query, planar_routine({side, go("home")}));
  REQUIRE(planned);
  CHECK(planned->steps[0].motion.duration() > 1.2 * free->steps[0].motion.duration());
  CHECK(rehearse(query.cell(), *planned).passed());
  PlannedRoutine spoiled = *planned;
  spoiled.steps[0].step.keep_speeds[0].most = 0.15;
  const Rehearsal out = rehearse(query.cell(), spoiled);
  CHECK_FALSE(out.passed());
  CHECK_THAT(out.steps[0].fault,
             Contains("rule 'slow tip': the tool at 150.0 mm/s at most moves at"));
}

TEST_CASE("measured use agrees with the exact peaks") {
  const CellQuery query = planar_query();
  const auto planned = plan_routine(query, planar_routine({go("side"), go("home")}));
  REQUIRE(planned);
  const Rehearsal rehearsal = rehearse(query.cell(), *planned);
  CHECK(rehearsal.passed());
  const MotionPeaks peaks = peaks_of(planned->steps[0].motion, query.arm().limits());
  CHECK(rehearsal.steps[0].velocity.share == Approx(peaks.velocity.share).epsilon(1e-4));
  CHECK(rehearsal.steps[0].acceleration.share == Approx(peaks.acceleration.share).epsilon(1e-3));
  CHECK(rehearsal.summary() ==
        fmt::format(
            "yes: 2 steps in {:.3f} s, range, velocity and acceleration kept, nothing to meet",
            planned->duration()));
  CHECK_THROWS_AS(rehearse(query.cell(), *planned, {.rate = -5.0}), InputError);
}

namespace {

// The planar arm as two rods that weigh something, with motors that give so much.
CellQuery heavy_planar_query(double torque, double fore_mass) {
  ArmDescription d{.name = "flat", .links = planar_arm().links(), .tools = planar_arm().tools()};
  d.stances = {{"home", values({0.0, 0.0})}, {"side", values({1.2, 0.0})}};
  d.links[1].inertial = inertial_of(d.links[1].parts, 2.0);
  d.links[2].inertial = fore_mass > 0.0 ? inertial_of(d.links[2].parts, fore_mass) : Inertial{};
  d.links[1].joint.limits.torque = d.links[2].joint.limits.torque = torque;
  return {Cell::build({.arms = {Arm::build(d)}}), "flat"};
}

}  // namespace

TEST_CASE("a rehearsal measures torques by itself") {
  const CellQuery query = heavy_planar_query(100.0, 1.0);
  const auto planned = plan_routine(query, planar_routine({go("side"), go("home")}));
  REQUIRE(planned);
  const Rehearsal rehearsal = rehearse(query.cell(), *planned);
  REQUIRE(rehearsal.passed());
  CHECK(rehearsal.measured_torques());
  CHECK_THAT(rehearsal.summary(), Contains("range, velocity, acceleration and torque kept"));
  CHECK_THAT(rehearsal.report(query.cell()), Contains("range, velocity, acceleration, torque and"));
  // Both rods as one about the first axis: of a box a by b, m (a^2 + b^2) / 12 about its middle.
  const auto about_middle = [](double mass, double length) {
    return mass * (length * length + 0.02 * 0.02) / 12.0;
  };
  const double inertia =
      about_middle(2.0, 0.4) + 2.0 * 0.2 * 0.2 + about_middle(1.0, 0.3) + 1.0 * 0.55 * 0.55;
  const RehearsedStep& first = rehearsal.steps[0];
  const double acceleration = first.acceleration.share * query.arm().limits().acceleration[0];
  CHECK(first.torque.joint == 0);
  CHECK(first.torque.share == Approx(inertia * acceleration / 100.0).epsilon(1e-6));

  // The same plan with motors that give half of that.
  const double half = 0.5 * first.torque.share * 100.0;
  const Rehearsal weak = rehearse(heavy_planar_query(half, 1.0).cell(), *planned);
  CHECK_FALSE(weak.passed());
  CHECK_THAT(weak.summary(),
             StartsWith("no: step 1 of 2, go to side: joint base_to_upper uses 200.00 "
                        "% of its torque limit at "));
  // What has no mass cannot be measured, and that is said.
  const CellQuery unknown = heavy_planar_query(half, 0.0);
  const Rehearsal without = rehearse(unknown.cell(), *planned);
  CHECK(without.passed());
  CHECK_FALSE(without.measured_torques());
  CHECK_THAT(without.summary(), Contains("range, velocity and acceleration kept"));
  CHECK_THAT(
      without.report(unknown.cell()),
      Contains("  torque limits are not looked at: link fore states no mass (in all steps)\n"));
}

TEST_CASE("measured torques agree with the exact peaks of the demo's steps") {
  const Rehearsal rehearsal = rehearse(demo_cell(), demo_plan());
  int seen = 0;
  for (std::size_t i = 0; i < rehearsal.steps.size(); ++i) {
    const RehearsedStep& step = rehearsal.steps[i];
    REQUIRE(step.torque.joint >= 0);
    if (!step.held.empty()) continue;
    const PeakUse exact = torque_use(demo_plan().steps[i].motion, demo_query().arm());
    CHECK(step.torque.joint == exact.joint);
    CHECK(step.torque.share == Approx(exact.share).epsilon(5e-3));
    ++seen;
  }
  CHECK(seen > 1);
}

TEST_CASE("the replay's own look at clearance agrees with the planner's, pair for pair") {
  ReplayClearance replay(demo_cell(), demo_query().arm());
  RandomStream random(91);
  for (int i = 0; i < 200; ++i) {
    const Posture q = random_posture(random, demo_query().arm());
    const Nearest planner = demo_query().nearest(q);
    const auto own = replay.nearest(q, 1e9);
    CHECK(own.distance == Approx(planner.distance).margin(1e-9));
  }
  CHECK(replay.nearest(demo_query().arm().stance("home"), 0.001).pair.empty());
}

TEST_CASE("a step that cannot be planned is named, with why") {
  const CellQuery blocked = planar_query({box_body("wall", {0.1, 0.1, 0.1}, {0.25, 0.64, 0})});
  const auto planned = plan_routine(blocked, planar_routine({go("folded"), go("side")}));
  REQUIRE_FALSE(planned);
  CHECK(planned.reason().cause == Cause::step_refused);
  CHECK_THAT(planned.reason().text,
             StartsWith("no: step 2 of 2, go to side: at the goal: flat.fore and wall, "));
  const CellQuery query = planar_query();
  const auto nothing = plan_routine(query, planar_routine({go("home")}));
  REQUIRE_FALSE(nothing);
  CHECK_THAT(nothing.reason().text, Contains("the arm is already there; leave the step out"));
  CHECK_THROWS_WITH(plan_routine(query, planar_routine({})),
                    StartsWith("the routine has no steps"));
}

TEST_CASE("a free move goes only to postures from which the straight moves after it can be done") {
  // The way down is open from one side only: the line must be what decides.
  Routine routine = demo_plan().routine;
  const auto planned = plan_routine(demo_query(), routine);
  REQUIRE(planned);
  CHECK(planned->steps[0].ways >= planned->steps[0].way);
  CHECK(planned->steps[0].way >= 1);
  CHECK(planned->steps[1].way == 0);
  // Ask for a line that cannot be: the free move before it is refused, and names the line.
  Target& down =
      std::get<AtTarget>(std::get<StraightMove>(routine.steps[4].action).to.front()).target;
  down.place("grip", Pose{down.pose().rotation, {0.52, 0.13, 0.27}});
  const auto refused = plan_routine(demo_query(), routine);
  REQUIRE_FALSE(refused);
  CHECK_THAT(refused.reason().text,
             StartsWith("no: step 5 of 10, line to in_glaze: none of the ") &&
                 Contains("the straight line can be followed for"));
}
