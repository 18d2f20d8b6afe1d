#include "elbowroom/reach/reach.hpp"

#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/reach/numeric.hpp"
#include "elbowroom/reach/tool_swing.hpp"
#include "support/allocations.hpp"
#include "support/cells.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;

namespace {

CellQuery alone(const Arm& arm) { return {Cell::build({.arms = {arm}}), arm.name()}; }

Target at_posture(const Arm& arm, const Posture& q) {
  return Target{}.place("tip", tool_pose(arm, arm.tool("tip"), q)).within(1e-6, 1e-6);
}

// All eight branches of wrist_arm() in closed form, from its dimensions alone: waist from the wrist
// centre, shoulder and elbow from the two-link triangle, wrist from what turn is left.
std::vector<Posture> eight_branches(const Pose& tip) {
  std::vector<Posture> out;
  const double upper = 0.40, fore = std::hypot(0.39, 0.03), slope = std::atan2(0.03, 0.39);
  const Vector3 centre = tip.position - 0.165 * tip.rotation.col(0);
  for (const double back : {0.0, std::numbers::pi}) {
    const double waist = std::atan2(centre.y(), centre.x()) + back;
    const double r = (back == 0.0 ? 1.0 : -1.0) * std::hypot(centre.x(), centre.y()) - 0.04;
    const double z = centre.z() - 0.34;
    const double cosine = (r * r + z * z - upper * upper - fore * fore) / (2 * upper * fore);
    if (std::abs(cosine) > 1.0) continue;
    for (const double side : {1.0, -1.0}) {
      // With q2 = 0 the upper arm is upright; the inner angle between the bars is bend.
      const double bend = side * std::acos(cosine);
      const double aim = std::atan2(r, z);  // from the vertical, forwards
      const double shoulder =
          aim - std::atan2(fore * std::sin(bend), upper + fore * std::cos(bend));
      const double elbow = bend - std::numbers::pi / 2 + slope;
      const Matrix3 left = (rotation_about(Vector3::UnitZ(), waist) *
                            rotation_about(Vector3::UnitY(), shoulder + elbow))
                               .transpose() *
                           tip.rotation;
      // left = Rx(q4) Ry(q5) Rx(q6)
      for (const double flip : {1.0, -1.0}) {
        const double q5 = flip * std::acos(std::clamp(left(0, 0), -1.0, 1.0));
        const double s = std::sin(q5) >= 0 ? 1.0 : -1.0;
        out.push_back(values({waist, shoulder, elbow, std::atan2(s * left(1, 0), -s * left(2, 0)),
                              q5, std::atan2(s * left(0, 1), s * left(0, 2))}));
      }
    }
  }
  return out;
}

}  // namespace

TEST_CASE("the planar arm: both elbows, in closed form") {
  const Arm arm = planar_arm();
  const Posture q = values({0.4, 1.1});
  const auto found = reach(alone(arm), at_posture(arm, q));
  // The target also fixes the heading, so of the two elbows only one has it.
  REQUIRE(found);
  REQUIRE(found->solutions.size() == 1);
  CHECK((found->solutions[0].posture - q).norm() < 1e-5);
}

TEST_CASE("all eight branches of a spherical wrist, against the closed form") {
  const Arm arm = wrist_arm();
  RandomStream random(61);
  int targets = 0, branches = 0, missed = 0;
  for (int i = 0; i < 120; ++i) {
    const Posture q = random_posture(random, arm);
    const Target target = at_posture(arm, q);
    std::vector<Posture> expected;
    for (Posture one : eight_branches(target.pose())) {
      const Pose is = tool_pose(arm, arm.tool("tip"), one);
      REQUIRE(error_between(target.pose(), is).position < 1e-9);
      REQUIRE(error_between(target.pose(), is).angle < 1e-7);
      for (Eigen::Index k = 0; k < 6; ++k) one[k] = std::remainder(one[k], 2 * std::numbers::pi);
      if (one.cwiseAbs().maxCoeff() < 3.0) expected.push_back(one);  // within the ranges
    }
    const auto found = reach(alone(arm), target);
    REQUIRE(found);
    CHECK(found->complete);
    CHECK(found->starts == 0);
    ++targets;
    for (const ReachSolution& s : found->solutions) {
      CHECK(s.position_error <= 1e-6);
      CHECK(s.angle_error <= 1e-6);
      CHECK(arm.limit_breach(s.posture).empty());
      // Every posture found is one of the closed form's: nothing is made up.
      const bool known = std::any_of(expected.begin(), expected.end(), [&](const Posture& e) {
        return (e - s.posture).cwiseAbs().maxCoeff() < 2e-3;
      });
      if (std::abs(std::sin(s.posture[4])) > 0.05) CHECK(known);
    }
    for (const Posture& e : expected) {
      if (std::abs(std::sin(e[4])) < 0.05)
        continue;  // beside the wrist singularity: not one branch
      ++branches;
      const bool there = std::any_of(
          found->solutions.begin(), found->solutions.end(),
          [&](const ReachSolution& s) { return (e - s.posture).cwiseAbs().maxCoeff() < 2e-3; });
      if (!there) ++missed;
    }
  }
  CHECK(targets == 120);
  CHECK(branches > 400);
  CHECK(missed == 0);
}

TEST_CASE("numeric starts and the closed form find the same postures") {
  const Arm arm = wrist_arm();
  RandomStream random(64);
  int closed = 0, missed = 0;
  for (int i = 0; i < 60; ++i) {
    const Target target = at_posture(arm, random_posture(random, arm));
    const auto all = reach(alone(arm), target);
    const auto some = reach(alone(arm), target, {.starts = 300, .use_closed_form = false});
    REQUIRE(all);
    REQUIRE(some);
    CHECK_FALSE(some->complete);
    CHECK(some->form.empty());
    const auto there = [](const Reach& in, const Posture& q) {
      return std::any_of(in.solutions.begin(), in.solutions.end(), [&](const ReachSolution& s) {
        return (q - s.posture).cwiseAbs().maxCoeff() < 2e-3;
      });
    };
    for (const ReachSolution& s : some->solutions)
      if (std::abs(std::sin(s.posture[4])) > 0.05) CHECK(there(*all, s.posture));
    for (const ReachSolution& s : all->solutions) {
      ++closed;
      if (!there(*some, s.posture)) ++missed;
    }
  }
  CHECK(closed > 100);
  CHECK(missed <= closed / 25);  // starts miss some now and then
}

TEST_CASE("a numeric solve keeps the limits and meets what it says") {
  const Arm arm = wrist_arm();
  RandomStream random(62);
  int met = 0;
  for (int i = 0; i < 500; ++i) {
    const Target target = at_posture(arm, random_posture(random, arm));
    const NumericSolve solve = solve_from(arm, target, random_posture(random, arm));
    CHECK(arm.limit_breach(solve.posture).empty());
    const PoseError error =
        error_between(target.pose(), tool_pose(arm, arm.tool("tip"), solve.posture));
    CHECK(error.position == Approx(solve.error.position).margin(1e-12));
    CHECK(solve.met == (error.position <= 1e-6 && error.angle <= 1e-6));
    met += solve.met ? 1 : 0;
  }
  CHECK(met > 100);  // from one random start each
}

TEST_CASE("a numeric solve takes nothing from the heap") {
  const Arm arm = wrist_arm();
  const Target target = at_posture(arm, values({0.3, 0.2, 0.5, 0.4, 0.9, -0.3}));
  const Posture start = Posture::Constant(6, 0.1);
  const long before = allocations();
  const bool met = solve_from(arm, target, start).met;
  const long after = allocations();
  CHECK(after == before);
  CHECK(met);
}

TEST_CASE("a chain of random joints, sliding ones too, is solved where it has been") {
  RandomStream random(63);
  int solved = 0;
  for (int i = 0; i < (kSanitized ? 16 : 40); ++i) {
    const Arm arm = random_arm(random, 12);
    if (arm.dof() < 6) continue;
    const auto found = reach(alone(arm), at_posture(arm, random_posture(random, arm)),
                             {.starts = 200, .find_remedies = false});
    if (found) ++solved;
  }
  CHECK(solved >= (kSanitized ? 3 : 10));
}

TEST_CASE("a no is said to be proved by nothing, unless the arm is too short for it") {
  const CellQuery query(load_cell(DEMO_DIR "/bracken.cell.yaml"), "bracken");
  const auto is_doubtful = [&](const Vector3& position) {
    const auto answer = reach(
        query, Target{}.require(
                   {.holds = AtPlace{.at = {rotation_about(Vector3::UnitX(), 3.1), position}}}));
    REQUIRE_FALSE(answer);
    const auto& details = answer.reason().details;
    return std::any_of(details.begin(), details.end(),
                       [](const std::string& line) { return line.rfind("not proved: ", 0) == 0; });
  };
  CHECK(is_doubtful({0.9, 0, 0.4}));
  CHECK_FALSE(is_doubtful({2.5, 0, 0.4}));
}

TEST_CASE("seven joints: a posture of every branch, at the elbow angle with the least cost") {
  const Cell cell = load_cell(DEMO_DIR "/bracken.cell.yaml");
  const CellQuery query(cell, "bracken");
  const Arm& arm = query.arm();
  RandomStream random(65);
  int asked = 0, reached = 0;
  for (int i = 0; i < 60 && asked < 15; ++i) {
    const Posture q = random_posture(random, arm);
    if (!query.is_free(q, 0.002)) continue;
    ++asked;
    const Target target =
        Target{}.place("peel_end", tool_pose(arm, arm.tool("peel_end"), q)).within(1e-6, 1e-6);
    const auto found = reach(query, target);
    if (!found) continue;
    ++reached;
    CHECK(found->starts == 0);
    CHECK(found->form == "shoulder and wrist of seven joints");
    for (const ReachSolution& s : found->solutions) {
      CHECK(s.position_error < 1e-9);
      CHECK(arm.limit_breach(s.posture).empty());
      CHECK(s.nearest.distance > 0.0);
      CHECK_THAT(s.branch, Contains(", elbow ") && (StartsWith("+, ") || StartsWith("-, ")));
    }
  }
  CHECK(asked == 15);
  CHECK(reached >= 13);  // a free posture between two elbow angles looked at may be missed
}

TEST_CASE("a singular target: the free joint is named and stays where the arm is") {
  const Arm arm = wrist_arm();
  std::size_t postures = 0;
  for (const double bend : {0.0, 1e-9}) {
    const Posture q = values({0.3, 0.2, 0.4, 0.5, bend, 0.1});
    Posture from = q;
    from[3] = 0.9;
    const auto found = reach(alone(arm), at_posture(arm, q), {.from = from});
    REQUIRE(found);
    const auto singular =
        std::find_if(found->solutions.begin(), found->solutions.end(),
                     [](const ReachSolution& s) { return !s.free_joint.empty(); });
    REQUIRE(singular != found->solutions.end());
    CHECK(singular->free_joint == arm.moving_joint(3).name);
    CHECK(singular->posture[3] == Approx(0.9).margin(1e-12));
    CHECK(singular->posture[3] + singular->posture[5] == Approx(0.6).margin(1e-4));
    CHECK_THAT(found->report(alone(arm)), Contains("singular: " + singular->free_joint));
    // And none as noise beside it.
    if (bend == 0.0) postures = found->solutions.size();
    CHECK(found->solutions.size() == postures);
  }
}

TEST_CASE("full turns within the ranges are postures of their own") {
  ArmDescription d{.name = "spin",
                   .links = {{.name = "base"}, turning("disc", {0, 0, 0}, Vector3::UnitZ())},
                   .tools = {{.name = "tip", .tip = Pose::at({0.1, 0, 0})}}};
  d.links[1].joint.limits.lower = -7.0;
  d.links[1].joint.limits.upper = 7.0;
  const Arm arm = Arm::build(d);
  const auto found = reach(alone(arm), at_posture(arm, values({0.5})));
  REQUIRE(found);
  std::vector<double> angles;
  for (const ReachSolution& s : found->solutions) angles.push_back(s.posture[0]);
  std::sort(angles.begin(), angles.end());
  REQUIRE(angles.size() == 3);
  CHECK(angles[0] == Approx(0.5 - 2 * std::numbers::pi).margin(1e-6));
  CHECK(angles[1] == Approx(0.5).margin(1e-6));
  CHECK(angles[2] == Approx(0.5 + 2 * std::numbers::pi).margin(1e-6));
}

TEST_CASE("the best posture is the cheapest, and its cost is the sum of its parts") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  const Posture there = query.arm().stance("over_board");
  const Target target = Target{}
                            .place("grip", tool_pose(query.arm(), query.arm().tool("grip"), there))
                            .within(1e-5, 1e-4);
  const auto found = reach(query, target, {.clearance = 0.005, .from = there});
  REQUIRE(found);
  CHECK((found->solutions[0].posture - there).cwiseAbs().maxCoeff() < 1e-3);
  for (std::size_t i = 1; i < found->solutions.size(); ++i)
    CHECK(found->solutions[i - 1].cost() <= found->solutions[i].cost());
  for (const ReachSolution& s : found->solutions) {
    CHECK(s.nearest.distance > 0.005);
    CHECK(s.travel_cost == Approx((s.posture - there).cwiseAbs().maxCoeff() / std::numbers::pi));
  }
}

TEST_CASE("out of reach: short by what the straight arm lacks") {
  const Arm arm = planar_arm();
  const auto found = reach(alone(arm), Target{}.place("tip", Pose::at({0.9, 0, 0})));
  REQUIRE_FALSE(found);
  CHECK(found.reason().cause == Cause::out_of_reach);
  CHECK(found.reason().text == "no: out of reach, short by 200.0 mm");
  CHECK(found.reason().figures[0].value == Approx(0.2).margin(1e-6));
  REQUIRE_FALSE(found.reason().remedies.empty());
  CHECK_THAT(found.reason().remedies[0].text,
             StartsWith("move the target by [-200, 0, 0] mm (world axes)"));
}

TEST_CASE("the position but not the orientation: how far it is off") {
  const Arm arm = planar_arm();
  const Pose tilted{rotation_about(Vector3::UnitX(), 0.5),
                    tool_pose(arm, arm.tool("tip"), values({0.0, 1.0})).position};
  const auto found = reach(alone(arm), Target{}.place("tip", tilted));
  REQUIRE_FALSE(found);
  CHECK(found.reason().cause == Cause::orientation);
  CHECK_THAT(
      found.reason().text,
      StartsWith("no: the position can be met, the orientation not: it comes no nearer than "));
}

TEST_CASE("only beyond the limits: which joint, and by how much") {
  const Arm arm = planar_arm();
  const auto found = reach(alone(arm), at_posture(arm, values({0.0, 3.1})));
  REQUIRE_FALSE(found);
  CHECK(found.reason().cause == Cause::beyond_limits);
  CHECK(found.reason().text ==
        "no: only beyond the joint limits: joint upper_to_fore would be at 177.62 deg, limit "
        "171.89 deg");
  CHECK(found.reason().figures[0].value == Approx(0.1).margin(1e-5));
}

TEST_CASE("only in collision: with what, how deep, and a shift that frees it") {
  // A cube over the elbow of the only posture that has this heading.
  const Body cube = box_body("cube", {0.04, 0.04, 0.04}, {0.0, 0.35, 0});
  const Arm arm = planar_arm();
  const CellQuery query(Cell::build({.arms = {arm}, .fixtures = {cube}}), "flat");
  const auto found =
      reach(query, at_posture(arm, values({std::numbers::pi / 2, -std::numbers::pi / 2})));
  REQUIRE_FALSE(found);
  CHECK(found.reason().cause == Cause::in_collision);
  CHECK_THAT(found.reason().text,
             StartsWith("no: the only posture that meets the target is too near something: "
                        "flat.upper and cube, 30.0 mm deep"));
}

TEST_CASE("a held joint stays where it is held, wherever the arm comes from") {
  const CellQuery query(load_cell(DEMO_DIR "/bracken.cell.yaml"), "bracken");
  const Arm& whole = query.arm();
  const Posture q = values({0.1, 0.5, 0.35, 1.05, 0.17, 0.7, 0.2});
  const Arm arm = whole.holding({{whole.moving_joint(2).name, 0.35}});
  const CellQuery held(query.cell().with_arm(arm), "bracken");
  const Target target =
      Target{}.place("peel_end", tool_pose(arm, arm.tool("peel_end"), q)).within(1e-6, 1e-6);
  const auto found = reach(held, target, {.from = Posture::Zero(7)});
  REQUIRE(found);
  CHECK(found->form == "spherical wrist");
  CHECK(found->complete);
  bool there = false;
  for (const ReachSolution& s : found->solutions) {
    CHECK(s.posture[2] == 0.35);
    there |= (s.posture - q).cwiseAbs().maxCoeff() < 1e-6;
  }
  CHECK(there);
}

TEST_CASE("only in collision: a line for every branch") {
  ArmDescription d = wrist_arm().description();
  d.links.back().parts = {{.shape = Sphere{0.02}, .at = Pose::at({0.1, 0, 0})}};
  const Arm arm = Arm::build(d);
  const Posture q = values({0.2, 0.3, 0.4, 0.5, 0.7, 0.1});
  const Target target = at_posture(arm, q);
  const Body block =
      box_body("block", {0.1, 0.1, 0.1}, tool_pose(arm, arm.tool("tip"), q).position);
  const CellQuery query(Cell::build({.arms = {arm}, .fixtures = {block}}), arm.name());
  const auto found = reach(query, target);
  REQUIRE_FALSE(found);
  CHECK(found.reason().cause == Cause::in_collision);
  REQUIRE(found.reason().details.size() >= 2);
  for (const std::string& line : found.reason().details) {
    CHECK_THAT(line, StartsWith("front, ") || StartsWith("back, "));
    CHECK_THAT(line, Contains(" mm deep"));
  }
  CHECK_THAT(fmt::format("{}", found.reason()), Contains("\n  " + found.reason().details[1]));
}

TEST_CASE("questions that cannot be asked") {
  const Arm arm = planar_arm();
  CHECK_THROWS_WITH(reach(alone(arm), Target{}.place("tpi", {})), Contains("did you mean 'tip'?"));
  CHECK_THROWS_AS(reach(alone(arm), Target{}.place("tip", {}), {.starts = 0}), InputError);
  ArmDescription d{.name = "free",
                   .links = {{.name = "base"}, turning("disc", {0, 0, 0}, Vector3::UnitZ())},
                   .tools = {{.name = "tip"}}};
  d.links[1].joint.limits = {};
  CHECK_THROWS_WITH(reach(alone(Arm::build(d)), Target{}.place("tip", {})),
                    StartsWith("joint 'base_to_disc' of arm 'free' has no range"));
}

TEST_CASE("taking the value of a no throws its reason") {
  const Arm arm = planar_arm();
  const auto found = reach(alone(arm), Target{}.place("tip", Pose::at({0.9, 0, 0})));
  CHECK_THROWS_WITH(found.value(), "no: out of reach, short by 200.0 mm");
  CHECK_THROWS_AS(found->starts, Refused);
  CHECK(fmt::format("{}", found.reason()).find("\n  would do: ") != std::string::npos);
  CHECK(name_of(Cause::step_refused) == "step_refused");
}

TEST_CASE("what joints do on the way is told in their own units") {
  ArmDescription d = planar_arm().description();
  d.links.back().joint.kind = JointKind::prismatic;
  d.links.back().joint.axis = Vector3::UnitX();
  d.links.back().joint.limits.lower = 0.0;
  d.links.back().joint.limits.upper = 0.5;
  const Arm arm = Arm::build(d);
  const CellQuery query = alone(arm);
  const Target target =
      Target{}.require({.name = "far",
                        .of = "tip",
                        .holds = AtPlace{.at = Pose::at({0.0, 0.9, 0.0}), .tilt = kAnyTilt}});
  const auto found = reach(query, target, {.from = values({0.0, 0.0})});
  REQUIRE(found);
  // A quarter turn and 200 mm out.
  CHECK_THAT(found->explanation(query),
             Contains("joints turn in all  and slide mm") && Contains("90.00 deg         200.0"));
}

TEST_CASE("the swing of a tool: an arc against its chord, and no swing of a sliding joint") {
  const Arm arm = planar_arm();
  const int link = arm.tool("").link_index;
  const Pose& tip = arm.tool("").tip;
  const Posture from = Posture::Zero(arm.dof());
  const double radius =
      tool_pose(arm, arm.tool(""), from).position.norm();  // it lies straight along x
  for (const double turn : {0.2, 1.0, -2.0}) {
    Posture to = from;
    to[0] = turn;
    const ToolSwing swing = tool_swing(arm, link, tip, from, to);
    CHECK(swing.travel == Approx(radius * std::abs(turn)).epsilon(1e-5));
    CHECK(swing.off == Approx(radius * (1.0 - std::cos(0.5 * turn))).margin(1e-5));
  }
  const ToolSwing none = tool_swing(arm, link, tip, from, from);
  CHECK(none.travel == 0.0);
  CHECK(none.off == 0.0);
}
