// Targets that are more, or less, than one full pose.
#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <cstdio>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/kinematics/named_frame.hpp"
#include "elbowroom/reach/conflict.hpp"
#include "elbowroom/reach/reach.hpp"
#include "support/cells.hpp"
#include "support/demo.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;

namespace {

Pose tip_of(const Arm& arm, const Posture& q) { return tool_pose(arm, arm.tool(""), q); }

Pose pointing_down(const Vector3& at) {
  return {rotation_about(Vector3::UnitX(), std::numbers::pi), at};
}

double angle_between(const Vector3& a, const Vector3& b) {
  return std::acos(std::clamp(a.normalized().dot(b.normalized()), -1.0, 1.0));
}

}  // namespace

TEST_CASE("free about the tool axis: as good as the best of every turn tried") {
  const Cell& cell = demo_cell();
  const CellQuery query(cell, "teasel");
  const Pose pose = pointing_down({0.4, 0.0, 0.7});
  const auto found = reach(
      query, Target{}.require({.of = "grip", .holds = AtPlace{.at = pose, .turn = Band::free()}}));
  REQUIRE(found);
  CHECK(found->is_family);
  CHECK(found->target.leaves_open() == std::vector<std::string>{"free about its z"});
  CHECK_THAT(found->summary(query), StartsWith("yes: 3 postures found that reach it"));
  for (const ReachSolution& one : found->solutions) {
    const Pose tip = tip_of(query.arm(), one.posture);
    CHECK((tip.position - pose.position).norm() < 1e-5);
    CHECK(angle_between(tip.rotation.col(2), -Vector3::UnitZ()) < 1e-5);
    CHECK(query.is_free(one.posture));
  }
  double best = 1e9;
  for (int degree = 0; degree < 360; degree += 3) {
    Pose turned = pose;
    turned.rotation *= rotation_about(Vector3::UnitZ(), degree * std::numbers::pi / 180.0);
    const auto exact = reach(query, Target{}.place("grip", turned), {.find_remedies = false});
    if (exact) best = std::min(best, exact->solutions.front().cost());
  }
  CHECK(found->solutions.front().cost() < best + 1e-3);
}

TEST_CASE("a banded turn keeps to its band") {
  const CellQuery query(demo_cell(), "teasel");
  const Pose pose = pointing_down({0.4, 0.0, 0.7});
  const auto found =
      reach(query, Target{}.require({.holds = AtPlace{.at = pose, .turn = {0.9, 1.2}}}));
  REQUIRE(found);
  for (const ReachSolution& one : found->solutions) {
    const Matrix3 turned = pose.rotation.transpose() * tip_of(query.arm(), one.posture).rotation;
    const double turn = std::atan2(turned(1, 0), turned(0, 0));
    CHECK(turn > 0.9 - 1e-5);
    CHECK(turn < 1.2 + 1e-5);
  }
}

TEST_CASE("many requirements at once are all kept, judged by geometry alone") {
  const CellQuery query(demo_cell(), "teasel");
  const Arm& arm = query.arm();
  Target target;
  target
      .require({.name = "level",
                .holds = InDirection{.along = -Vector3::UnitZ(), .angle = {0.0, 0.0872664626}}})
      .require({.name = "near", .holds = AtDistance{{0.52, 0.13, 0.43}, {0.25, 0.35}}})
      .require({.name = "low elbow",
                .of = "elbow_block",
                .holds = InRoom{.along = {Band::free(), Band::free(), Band{-1.0, 1.1}},
                                .whole_link = true}})
      .require({.name = "bend", .holds = JointBands{{{"wrist_bend", {0.2, 1.9}}}}})
      .keep_clear(0.012);
  const auto found = reach(query, target, {.starts = 60});
  REQUIRE(found);
  CHECK(found->solutions.size() >= 3);
  for (const ReachSolution& one : found->solutions) {
    const Pose tip = tip_of(arm, one.posture);
    CHECK(angle_between(tip.rotation.col(2), -Vector3::UnitZ()) < 0.0872664626 + 1e-5);
    const double range = (tip.position - Vector3(0.52, 0.13, 0.43)).norm();
    CHECK(range > 0.25 - 1e-5);
    CHECK(range < 0.35 + 1e-5);
    CHECK(one.posture[4] >= 0.2 - 1e-9);
    CHECK(one.posture[4] <= 1.9 + 1e-9);
    CHECK(query.nearest(one.posture).distance > 0.012);
    const auto poses = link_poses(arm, one.posture);
    const auto elbow = static_cast<std::size_t>(arm.link_index("elbow_block"));
    for (const Part& part : arm.links()[elbow].parts) {
      const Pose at = poses[elbow] * part.at;
      CHECK(at.position.z() + half_extent(part.shape, at.rotation).z() < 1.1 + 1e-5);
    }
  }
  CHECK(found->target.report().find("low elbow: elbow_block all of it within z -1000 to 1100 mm") !=
        std::string::npos);
}

TEST_CASE("two frames of a branching arm at once") {
  RandomStream random(321);
  int met = 0;
  for (int n = 0; n < 20; ++n) {
    const Arm arm = random_arm(random, 12);
    const Posture q = random_posture(random, arm);
    Target target;
    for (const char* link : {"l11", "l10"}) {
      const Pose pose = link_poses(arm, q)[static_cast<std::size_t>(arm.link_index(link))];
      target.require({.of = link, .holds = AtPlace{.at = pose, .tilt = kAnyTilt}})
          .within(1e-5, 1e-5);
    }
    const CellQuery query(Cell::build({.arms = {arm}}), "any");
    const auto found = reach(query, target, {.starts = 30, .find_remedies = false});
    if (!found) continue;  // links of a random arm may well overlap
    ++met;
    for (const ReachSolution& one : found->solutions)
      for (const char* link : {"l11", "l10"}) {
        const auto index = static_cast<std::size_t>(arm.link_index(link));
        CHECK((link_poses(arm, one.posture)[index].position - link_poses(arm, q)[index].position)
                  .norm() < 1.1e-5);
      }
  }
  CHECK(met >= 3);
}

TEST_CASE("requirement against requirement: the smallest set, and what loosening does") {
  const CellQuery query(demo_cell(), "teasel");
  Target target;
  target
      .require({.name = "over",
                .holds = InRoom{.along = {Band{0.3, 0.5}, Band{-0.1, 0.1}, Band{0.65, 0.8}}}})
      .require({.name = "down", .holds = InDirection{.along = -Vector3::UnitZ()}})
      .require({.name = "level",
                .holds = InDirection{
                    .axis = Vector3::UnitX(), .along = Vector3::UnitZ(), .angle = {0.0, 1.2}}});
  CHECK(conflicting_requirements(query.arm(), target, 60) ==
        std::vector<std::string>{"down", "level"});
  const auto found = reach(query, target);
  REQUIRE_FALSE(found);
  CHECK(found.reason().cause == Cause::at_odds);
  CHECK(
      found.reason().text ==
      "no: requirements 'down' and 'level' cannot be met together, though without any one of them "
      "the others can");
  // With z down, x is level: 90 deg from up, where 68.75 are allowed.
  REQUIRE(found.reason().details.size() == 3);
  CHECK_THAT(found.reason().details[2], StartsWith("not proved: "));
  CHECK_THAT(found.reason().details[1],
             Contains("is, with the others met, off by at least 21.25 deg"));
  REQUIRE_FALSE(found.reason().remedies.empty());
  CHECK_THAT(found.reason().remedies.back().text, StartsWith("loosen 'level' by 22.4"));
  Target looser = target;
  looser.changed(loosened(target.requirements()[2], 0.0, 22.5 * std::numbers::pi / 180.0));
  CHECK(reach(query, looser));
  // Or nobody asks for it any more.
  CHECK(reach(query, Target(target).switched("level", false)));
}

TEST_CASE("joint bands count like ranges, and are named when they are what stands in the way") {
  const CellQuery query(demo_cell(), "teasel");
  Target target;
  target.place("grip", pointing_down({0.4, 0.0, 0.7}))
      .require({.name = "elbow", .holds = JointBands{{{"elbow", {1.0, 2.0}}}}});
  const auto found = reach(query, target);
  REQUIRE_FALSE(found);
  CHECK(found.reason().cause == Cause::at_odds);
  CHECK_THAT(found.reason().text, Contains("'place' and 'elbow'"));
  Requirement wide = target.requirements()[1];
  wide.holds = JointBands{{{"elbow", {0.2, 2.0}}}};
  const auto wider = reach(query, Target(target).changed(wide));
  REQUIRE(wider);
  for (const ReachSolution& one : wider->solutions) CHECK(one.posture[2] >= 0.2);
  CHECK(wider->form == "spherical wrist");
}

TEST_CASE("one requirement that nothing can meet says how near it comes") {
  const CellQuery query(demo_cell(), "teasel");
  // Its reach from the shoulder, 740 mm up: what is 3 m out cannot be.
  const auto far = reach(
      query, Target{}.require({.name = "far", .holds = AtDistance{{3.0, 0, 0.7}, {0.0, 0.5}}}));
  REQUIRE_FALSE(far);
  CHECK(far.reason().text == "no: requirement 'far' cannot be met");
  REQUIRE(far.reason().details.size() == 2);
  CHECK_THAT(far.reason().details[0], Contains("comes no nearer than"));
}

TEST_CASE("a view: in its cone, from its range, and not through a wall") {
  const Vector3 point{0.6, 0.0, 0.3};
  Target target;
  target.require({.name = "see",
                  .of = "tip",
                  .holds = InSight{.points = {point},
                                   .normal = Vector3::UnitZ(),
                                   .cone = 0.2,
                                   .range = {0.2, 0.4},
                                   .incidence = 0.6}});
  const Arm arm = wrist_arm();
  const CellQuery open(Cell::build({.arms = {arm}}), "six");
  const auto seen = reach(open, target, {.starts = 40});
  REQUIRE(seen);
  for (const ReachSolution& one : seen->solutions) {
    const Pose camera = tip_of(arm, one.posture);
    const Vector3 way = point - camera.position;
    CHECK(angle_between(camera.rotation.col(2), way) < 0.2 + 1e-5);
    CHECK(angle_between(-way, Vector3::UnitZ()) < 0.6 + 1e-5);
    CHECK(way.norm() > 0.2 - 1e-5);
    CHECK(way.norm() < 0.4 + 1e-5);
  }
  // A lid over the point, 20 mm above it: every line from above meets it.
  const Body lid = box_body("lid", {0.4, 0.4, 0.002}, {0.6, 0.0, 0.32});
  const CellQuery shut(Cell::build({.arms = {arm}, .fixtures = {lid}}), "six");
  const auto blocked = reach(shut, target, {.starts = 40});
  REQUIRE_FALSE(blocked);
  CHECK(blocked.reason().cause == Cause::view_blocked);
  CHECK_THAT(blocked.reason().text, Contains("the view is blocked in all") && Contains("by lid"));
  Requirement through = target.requirements().front();
  std::get_if<InSight>(&through.holds)->unblocked = false;
  CHECK(reach(shut, Target(target).changed(through), {.starts = 40}));
}

TEST_CASE("surfaces meeting: a held cup stands on the board, wherever there is room") {
  const Cell holding = demo_cell().with_held("cup_1", "teasel", "", "from_above");
  const Arm& arm = holding.arm("teasel");
  Target target;
  target.require(surfaces_meeting(holding, arm, "cup_1", Side::bottom, "ware_board", Side::top))
      .within(1e-5, 1e-5);
  const CellQuery query(holding, "teasel");
  const auto found = reach(query, target, {.starts = 40});
  REQUIRE(found);
  const auto cup = static_cast<std::size_t>(arm.link_index("cup_1"));
  for (const ReachSolution& one : found->solutions) {
    const Pose at = link_poses(arm, one.posture)[cup];
    // The board's top is at 560 mm, 640 x 260 mm about (100, 560); the cup has a radius of 32 mm.
    CHECK(at.position.z() == Approx(0.56).margin(1e-5));
    CHECK(angle_between(at.rotation.col(2), Vector3::UnitZ()) < 1e-5);
    CHECK(std::abs(at.position.x() - 0.1) < 0.32 - 0.032 + 1e-5);
    CHECK(std::abs(at.position.y() - 0.56) < 0.13 - 0.032 + 1e-5);
    CHECK(with_meant_contacts(query, target).is_free(one.posture));
    CHECK_FALSE(query.is_free(one.posture, 1e-4));  // they touch
  }
  CHECK_THROWS_WITH(surfaces_meeting(holding, arm, "cup_1", Side::bottom, "kiln_post_1", Side::top),
                    Contains("cannot lie within that side of 'kiln_post_1'"));
  CHECK_THROWS_WITH(surfaces_meeting(holding, arm, "cup_1", Side::bottom, "bord", Side::top),
                    Contains("unknown fixture or piece 'bord'"));
  CHECK_THROWS_WITH(side_named("upper"), Contains("known: top, bottom, front, back, left, right"));
}

TEST_CASE("surfaces meeting: a floor without end has a top, anywhere, and no other side") {
  const Cell holding = demo_cell().with_held("cup_1", "teasel", "", "from_above");
  CellDescription d{.arms = holding.arms()};
  d.fixtures = {{.name = "floor", .at = Pose::at({0, 0, 0.1}), .parts = {{.shape = HalfSpace{}}}}};
  const Cell cell = Cell::build(d);
  const Arm& arm = cell.arm("teasel");
  const Requirement standing =
      surfaces_meeting(cell, arm, "cup_1", Side::bottom, "floor", Side::top);
  const AtPlace& place = *std::get_if<AtPlace>(&standing.holds);
  CHECK(place.at.position == Vector3(0, 0, 0.1));
  CHECK(std::isinf(place.along[0].upper));
  CHECK(std::isinf(place.along[1].lower));
  CHECK_THROWS_WITH(surfaces_meeting(cell, arm, "cup_1", Side::bottom, "floor", Side::left),
                    Contains("'floor' has no end on that side"));
}

TEST_CASE("frames that targets may be given in") {
  const Cell& cell = demo_cell();
  const Arm& arm = cell.arm("teasel");
  CHECK(named_frame(cell, arm, "world").position.norm() == 0.0);
  CHECK(named_frame(cell, arm, "base").position.z() == Approx(0.4));
  CHECK(named_frame(cell, arm, "bucket").position.x() == Approx(0.52));
  CHECK(named_frame(cell, arm, "cup_1").position.z() == Approx(0.56));
  CHECK(named_frame(cell, arm, "upper_shelf").position.z() ==
        Approx(cell.frame("upper_shelf").position.z()));
  CHECK_THROWS_WITH(named_frame(cell, arm, "buckt"),
                    Contains("unknown frame 'buckt'") && Contains("'bucket'"));
  ArmDescription second = planar_arm().description();
  second.mount = Pose::at({2, 0, 0});
  CellDescription two = cell.description();
  two.arms.push_back(Arm::build(second));
  const Cell both = Cell::build(two);
  CHECK(named_frame(both, both.arm("teasel"), "flat.tip").position.x() == Approx(2.7));
}

TEST_CASE("wishes choose among what is possible") {
  const Cell& cell = demo_cell();
  const CellQuery query(cell, "teasel");
  Target target;
  target.require({.holds = AtPlace{.at = pointing_down({0.35, 0.25, 0.75}), .turn = Band::free()}});
  const auto best = [&](Wishes wishes) {
    const auto found = reach(query, Target(target).wish(std::move(wishes)));
    REQUIRE(found);
    // The cost is the sum of its parts.
    const ReachSolution one = found->solutions.front();
    const Wishes& w = found->target.wishes();
    CHECK(one.cost() == Approx(w.travel * one.travel_cost + w.room * one.room_cost +
                               w.limits * one.limit_cost + w.dexterity * one.dexterity_cost +
                               w.load * one.load_cost + w.branch_cost * one.branch_cost));
    return one;
  };
  const ReachSolution usual = best({});
  CHECK(best({.branch = "front, up, -", .branch_cost = 10.0}).branch == "front, up, -");
  CHECK(usual.branch == "front, up, +");
  const Posture near = best({.branch = "front, up, -", .branch_cost = 10.0}).posture;
  CHECK((best({.room = 0.0, .limits = 0.0, .near = near}).posture - near).cwiseAbs().maxCoeff() <
        0.35);
  const ReachSolution lazy = best({.travel = 0.0, .room = 0.0, .limits = 0.0, .load = 1.0});
  const ReachSolution busy = best({.load = 1e-6});
  CHECK(lazy.load_cost <= busy.load_cost + 1e-9);
  CHECK(lazy.load_cost > 0.01);
  const ReachSolution nimble = best({.travel = 0.0, .room = 0.0, .limits = 0.0, .dexterity = 1.0});
  CHECK(nimble.weakest > 0.02);
  const CellQuery bare(Cell::build({.arms = {wrist_arm()}}), "six");
  CHECK_THROWS_WITH(reach(bare, Target{}.place("", {}).wish({.load = 1.0})),
                    Contains("joints without a torque limit"));
  const CellQuery flat(Cell::build({.arms = {planar_arm()}}), "flat");
  CHECK_THROWS_WITH(reach(flat, Target{}.place("", {}).wish({.load = 1.0})),
                    Contains("links without a mass"));
}

TEST_CASE("the first posture's advantage is told part by part") {
  const CellQuery query(demo_cell(), "teasel");
  const auto found =
      reach(query, Target{}.place("grip", pointing_down({0.4, 0.0, 0.7})).named("t"));
  REQUIRE(found);
  REQUIRE(found->solutions.size() >= 2);
  CHECK_THAT(comparison(query.arm(), found->target.wishes(), found->solutions.front(),
                        found->solutions.back()),
             StartsWith("cost ") && Contains(" less (") && Contains(", not "));
  CHECK_THAT(found->explanation(query),
             StartsWith("  asked for:\n    place: grip at [400, 0, 700] mm, "
                        "rpy [180, 0, 0] deg\n  1 before 2: cost"));
}

TEST_CASE("remedies that change the arm do what they say") {
  const CellQuery query(demo_cell(), "teasel");
  const Arm& arm = query.arm();
  // Straight up over the shoulder, 120 mm beyond the reach of the arm.
  Target target;
  target.place("grip", {Matrix3::Identity(), {0.0, 0.0, 1.83}});
  const auto found = reach(query, target);
  REQUIRE_FALSE(found);
  double lift = 0.0;
  double longer = 0.0;
  for (const Remedy& remedy : found.reason().remedies) {
    std::sscanf(remedy.text.c_str(), "lift the arm's mount by %lf mm", &lift);
    std::sscanf(remedy.text.c_str(), "make tool grip %lf mm longer", &longer);
  }
  REQUIRE(lift > 0.0);
  REQUIRE(longer > 0.0);
  const auto lifted = [&](double by) {
    Pose mount = arm.mount();
    mount.position.z() += by;
    return static_cast<bool>(reach(query.with_arm(arm.mounted_at(mount)), target));
  };
  CHECK(lifted(lift * 1e-3));
  CHECK_FALSE(lifted(0.5e-3 * lift));
  ArmDescription description = arm.description();
  description.tools[0].tip.position.z() += longer * 1e-3;
  CHECK(reach(query.with_arm(Arm::build(description)), target));
}

TEST_CASE("what is left open moves a posture out of what it is too near to") {
  // Low between the ware board's legs: the floor, the board and the arm itself leave little room.
  const CellQuery query(test::demo_cell(), "teasel");
  Target target;
  target.require({.of = "grip",
                  .holds = AtPlace{.at = Pose::at({-0.2989584, 0.5656416, 0.0278557}),
                                   .turn = Band::free(),
                                   .tilt = kAnyTilt}});
  for (const int starts : {24, 100}) {
    const auto found = reach(query, target, {.starts = starts, .clearance = 0.005});
    REQUIRE(found);
    for (const ReachSolution& one : found->solutions) {
      CHECK(query.nearest(one.posture).distance > 0.005);
      CHECK((tool_pose(query.arm(), query.arm().tool("grip"), one.posture).position -
             Vector3(-0.2989584, 0.5656416, 0.0278557))
                .norm() < 1e-6);
    }
  }
}
