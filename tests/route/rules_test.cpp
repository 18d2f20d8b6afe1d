// Rules on the way: proved for lines, kept by routes, and what cannot be one.
#include "elbowroom/route/rules.hpp"

#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/core_shape.hpp"
#include "elbowroom/route/repair.hpp"
#include "elbowroom/route/roadmap.hpp"
#include "elbowroom/route/route.hpp"
#include "elbowroom/route/rule_walk.hpp"
#include "elbowroom/route/two_trees.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;

namespace {

constexpr double kInfinity = std::numeric_limits<double>::infinity();

Requirement level(double degrees) {
  return {.name = "level",
          .holds = InDirection{.along = -Vector3::UnitZ(),
                               .angle = Band::up_to(degrees * std::numbers::pi / 180.0)}};
}

// How far out a posture is of what a rule says, by formulas of the test's own: m or rad, above zero
// when broken.
double outside(const Arm& arm, const Requirement& rule, const Posture& q) {
  const Tool& tool = arm.tools().front();
  const Pose tip = tool_pose(arm, tool, q);
  const auto band = [](const Band& b, double value) {
    return std::max(value - b.upper, b.lower - value);
  };
  const auto angle = [](const Vector3& a, const Vector3& b) {
    return std::acos(std::clamp(a.normalized().dot(b.normalized()), -1.0, 1.0));
  };
  if (const auto* one = std::get_if<InDirection>(&rule.holds))
    return band(one->angle, angle(tip.rotation * one->axis,
                                  one->at_point ? Vector3(one->point - tip.position) : one->along));
  if (const auto* one = std::get_if<AtDistance>(&rule.holds))
    return band(one->range, (tip.position - one->point).norm());
  if (const auto* one = std::get_if<AtPlace>(&rule.holds)) {
    const Vector3 at = one->at.inverse() * (tip * (one->standoff.lower * one->axis));
    double most = angle(tip.rotation * one->axis, one->at.rotation * one->axis) - one->tilt;
    for (int k = 0; k < 3; ++k)
      most = std::max(most, band(one->along[static_cast<std::size_t>(k)], at[k]));
    return most;
  }
  const auto& room = std::get<InRoom>(rule.holds);
  double most = -kInfinity;
  std::vector<Vector3> points{tip.position};
  if (room.whole_link) {
    // Corners of boxes: what the planar arm is made of.
    points.clear();
    const Link& link = arm.links().back();
    const Pose pose = frame_pose(arm, static_cast<int>(arm.links().size()) - 1, Pose{}, q);
    for (const Part& part : link.parts)
      for (int corner = 0; corner < 8; ++corner) {
        const Vector3 half = 0.5 * std::get<Box>(part.shape).size;
        points.push_back(pose * part.at *
                         Vector3(corner & 1 ? half.x() : -half.x(),
                                 corner & 2 ? half.y() : -half.y(),
                                 corner & 4 ? half.z() : -half.z()));
      }
  }
  for (const Vector3& point : points) {
    const Vector3 at = room.at.inverse() * point;
    for (int k = 0; k < 3; ++k)
      most = std::max(most, band(room.along[static_cast<std::size_t>(k)], at[k]));
  }
  return most;
}

// Lines of a random walk: what is proved is never seen broken, what is refused is broken, or all
// but.
void check_lines(const CellQuery& query, const Requirement& rule, double length, int least_kept) {
  const Rules rules(query, {rule});
  const Arm& arm = query.arm();
  RandomStream random(17);
  int kept = 0;
  int broken = 0;
  while (kept + broken < 300) {
    Posture from = random_posture(random, arm);
    if (const auto inside = rules.projected(from)) from = *inside;
    Posture to = from;
    for (double& value : to) value += random.uniform(-length, length);
    const bool says_kept = rules.broken_between(from, to) < 0;
    (says_kept ? kept : broken) += 1;
    double worst = -kInfinity;
    for (int i = 0; i <= 500; ++i)
      worst = std::max(worst, outside(arm, rule, from + i / 500.0 * (to - from)));
    if (says_kept)
      CHECK(worst <= 0.0);
    else
      CHECK(worst > -2e-3);
    CHECK((rules.broken_at(from) >= 0) == (outside(arm, rule, from) > -1e-9));
  }
  CHECK(kept >= least_kept);
  CHECK(broken >= least_kept);
}

}  // namespace

TEST_CASE("lines are proved to keep a rule, and refused only where it is broken or all but") {
  const CellQuery query(clutter_cell(Clutter::cavity), "");
  const Arm& arm = query.arm();
  const Pose somewhere = tool_pose(arm, arm.tools().front(), arm.mid_range());
  check_lines(query, level(20.0), 0.15, 30);
  check_lines(query,
              {.name = "out", .holds = InDirection{.along = Vector3::UnitX(), .angle = {0.4, 1.2}}},
              0.2, 30);
  check_lines(
      query,
      {.name = "at",
       .holds = InDirection{.at_point = true, .point = {0.6, 0.2, 0.3}, .angle = Band::up_to(0.5)}},
      0.15, 30);
  for (const double length : {0.2, 0.7})
    check_lines(query,
                {.name = "shell", .holds = AtDistance{.point = {0, 0, 0.4}, .range = {0.4, 0.7}}},
                length, 15);
  check_lines(query, level(60.0), 0.5, 15);
  check_lines(query,
              {.name = "room",
               .holds = InRoom{.at = Pose::at({0.2, 0.1, 0.5}),
                               .along = {Band{-0.3, 0.3}, Band::free(), Band{-0.2, kInfinity}}}},
              0.2, 30);
  AtPlace place{.at = somewhere};
  place.along = {Band{-0.2, 0.2}, Band{-0.3, 0.3}, Band::free()};
  place.standoff = Band::exactly(0.05);
  place.turn = Band::free();
  place.tilt = 0.6;
  check_lines(query, {.name = "place", .holds = place}, 0.15, 30);
}

TEST_CASE("a whole link in a room") {
  const CellQuery query(Cell::build({.arms = {planar_arm()}}), "flat");
  check_lines(query,
              {.name = "room",
               .of = "fore",
               .holds = InRoom{.along = {Band{-0.45, 0.6}, Band{-0.2, 0.5}, Band{-0.1, 0.1}},
                               .whole_link = true}},
              0.6, 30);
}

TEST_CASE("routes keep their rules all the way, on one seed the same") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  const Arm& arm = query.arm();
  const Posture board = arm.stance("over_board");
  const Posture bucket = arm.stance("over_bucket");
  const auto worst_of = [&](const std::vector<Posture>& waypoints) {
    double worst = -kInfinity;
    for (std::size_t i = 0; i + 1 < waypoints.size(); ++i)
      for (int k = 0; k <= 200; ++k)
        worst = std::max(
            worst,
            outside(arm, level(5.0), waypoints[i] + k / 200.0 * (waypoints[i + 1] - waypoints[i])));
    return worst;
  };
  // Random ways break it, and keep it where they have to; the tool drawn back keeps it anyway.
  for (const bool ruled : {false, true}) {
    const auto rules = std::make_shared<const Rules>(query, std::vector{level(5.0)});
    LineProver prover(query, kClearance, ruled ? rules : nullptr);
    TwoTrees trees(arm, board, {bucket}, 1);
    REQUIRE(trees.grow(20000, prover, {}));
    CHECK((worst_of(trees.way().waypoints) <= 0.0) == ruled);
  }
  for (const std::uint64_t seed : {1U, 2U, 3U}) {
    const RouteOptions options{.clearance = kClearance, .seed = seed, .rules = {level(5.0)}};
    const auto route = find_route(query, board, {bucket}, options);
    REQUIRE(route);
    CHECK(worst_of(route->waypoints) <= 0.0);
    CHECK(route->waypoints.front() == board);
    CHECK(route->waypoints.back() == bucket);
    CHECK(find_route(query, board, {bucket}, options)->waypoints == route->waypoints);
    REQUIRE(route->kept.size() == 1);
    CHECK_THAT(route->report(query),
               Contains("rule 'level': its z at up to 5 deg to direction [0, 0, -1]; "
                        "proved for the whole way"));
    LineProver prover(query, kClearance);
    for (std::size_t i = 0; i + 1 < route->waypoints.size(); ++i)
      CHECK(prover.is_free(route->waypoints[i], route->waypoints[i + 1]));
  }
  const auto improved = find_route(query, board, {bucket},
                                   {.clearance = kClearance,
                                    .rules = {level(5.0)},
                                    .planner = RoutePlanner::improving,
                                    .rounds = 4});
  REQUIRE(improved);
  CHECK(worst_of(improved->waypoints) <= 0.0);
}

TEST_CASE("a rule that an end breaks, or that leaves no way, is said so") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  const Arm& arm = query.arm();
  const Posture board = arm.stance("over_board");
  const Posture kiln = arm.stance("before_kiln");
  const auto at_goal = find_route(query, board, {kiln}, {.rules = {level(5.0)}});
  REQUIRE_FALSE(at_goal);
  CHECK(at_goal.reason().cause == Cause::goal_blocked);
  CHECK_THAT(at_goal.reason().text,
             StartsWith("no: at the goal: rule 'level' is not kept: its z at up to 5 "
                        "deg to direction [0, 0, -1]; 85.00 deg off"));
  const auto at_start = find_route(query, kiln, {board}, {.rules = {level(5.0)}});
  REQUIRE_FALSE(at_start);
  CHECK(at_start.reason().cause == Cause::start_blocked);
  const Posture bucket = arm.stance("over_bucket");
  const Requirement still{
      .name = "still",
      .holds = JointBands{{{.joint = "waist", .value = {80.0 * std::numbers::pi / 180.0, 3.0}}}}};
  const auto held = find_route(query, board, {bucket}, {.rules = {still}});
  REQUIRE_FALSE(held);
  CHECK_THAT(held.reason().text, Contains("rule 'still' is not kept"));
}

TEST_CASE("where a rule bars every way, the answer is that without it there is one") {
  // To pass the post the planar arm has to fold: its tip comes nearer than the post is.
  const Body post{
      .name = "post", .at = Pose::at({0.6, 0, 0}), .parts = {{.shape = Cylinder{0.03, 0.4}}}};
  const CellQuery query(Cell::build({.arms = {planar_arm()}, .fixtures = {post}}), "flat");
  const Requirement out{
      .name = "out", .holds = InRoom{.along = {Band{0.56, kInfinity}, Band::free(), Band::free()}}};
  const auto none =
      find_route(query, values({0.6, 0.0}), {values({-0.6, 0.0})}, {.tries = 2000, .rules = {out}});
  REQUIRE_FALSE(none);
  CHECK(none.reason().cause == Cause::no_route);
  CHECK_THAT(none.reason().text, Contains("lines were blocked most by"));
  REQUIRE(none.reason().remedies.size() == 1);
  CHECK(none.reason().remedies.front().text == "without rule 'out'");
  CHECK(find_route(query, values({0.6, 0.0}), {values({-0.6, 0.0})}, {.tries = 2000}));
}

TEST_CASE("rules that are switched off are none") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  const Posture board = query.arm().stance("over_board");
  const Posture kiln = query.arm().stance("before_kiln");
  Requirement off = level(5.0);
  off.on = false;
  CHECK(Rules(query, {off}).empty());
  const auto with = find_route(query, board, {kiln}, {.rules = {off}});
  REQUIRE(with);
  CHECK(with->kept.empty());
  CHECK(with->waypoints == find_route(query, board, {kiln})->waypoints);
  // Of two bands, the one that is broken is named.
  const auto band = [](const char* name, const char* joint) {
    return Requirement{.name = name, .holds = JointBands{{{.joint = joint, .value = {-0.1, 0.1}}}}};
  };
  const Rules bands(query, {off, band("waist", "waist"), band("turn", "wrist_turn")});
  CHECK(bands.name(bands.broken_at(board)) == "waist");
  Posture turned = Posture::Zero(6);
  turned[5] = 0.2;
  CHECK(bands.name(bands.broken_at(turned)) == "turn");
  turned[5] = 0.05;
  CHECK(bands.broken_at(turned) < 0);
}

TEST_CASE("what cannot be a rule") {
  const CellQuery query(clutter_cell(Clutter::cavity), "");
  const auto error = [&](const Requirement& rule) {
    try {
      const Rules rules(query, {rule});
    } catch (const InputError& one) {
      return std::string(one.what());
    }
    return std::string();
  };
  CHECK_THAT(error({.name = "pose", .holds = AtPlace{}}),
             Contains("rule 'pose' holds the place exactly"));
  CHECK_THAT(error({.name = "down", .holds = InDirection{}}),
             Contains("holds a direction exactly"));
  CHECK_THAT(error({.name = "far", .holds = AtDistance{.range = Band::exactly(1.0)}}),
             Contains("exactly"));
  CHECK_THAT(error({.name = "see", .holds = InSight{.points = {Vector3::Zero()}}}),
             Contains("sight"));
  AtPlace turned;
  turned.along = {Band::free(), Band::free(), Band::free()};
  turned.tilt = 0.2;
  turned.turn = {-0.1, 0.1};
  CHECK_THAT(error({.name = "turned", .holds = turned}), Contains("turn about an axis"));
  CHECK_THAT(error({.name = "who", .of = "nobody", .holds = AtDistance{.range = {0.1, 1.0}}}),
             Contains("unknown tool or link 'nobody'"));
  CHECK(error(level(5.0)).empty());
}

TEST_CASE("a walk by rules goes on until it is there or blocked, all of it proved") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  const Arm& arm = query.arm();
  const auto rules = std::make_shared<const Rules>(query, std::vector<Requirement>{level(8.0)});
  LineProver prover(query, kClearance, rules);
  RandomStream random(4);
  int arrived = 0;
  int walked = 0;
  for (int i = 0; i < 60; ++i) {
    const auto from = rules->projected(random_posture(random, arm));
    const auto to = rules->projected(random_posture(random, arm));
    if (!from || !to || !query.is_free(*from, kClearance) || !query.is_free(*to, kClearance))
      continue;
    const std::vector<Posture> way = walk_by_rules(*from, *to, prover);
    ++walked;
    arrived += !way.empty() && way.back() == *to ? 1 : 0;
    Posture at = *from;
    LineProver again = prover.fresh();
    for (const Posture& next : way) {
      CHECK(again.is_free(at, next));
      CHECK(rules->broken_at(next) < 0);
      at = next;
    }
  }
  CHECK(walked > 5);
  CHECK(arrived > 0);
  CHECK(arrived < walked);
}

TEST_CASE("rules are kept along a roadmap, which learns ways that keep them") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  const Posture board = query.arm().stance("over_board");
  const Posture bucket = query.arm().stance("over_bucket");
  Roadmap roadmap = Roadmap::build(query, {.postures = 300});
  const auto free_lines = [&] {
    return std::count_if(
        roadmap.graph().lines().begin(), roadmap.graph().lines().end(),
        [](const PostureGraph::Line& line) { return line.state == PostureGraph::State::free; });
  };
  const auto before = free_lines();
  RouteOptions options{.rules = {level(12.0)}, .roadmap = &roadmap};
  const Rules rules(query, options.rules);
  const auto first = find_route(query, board, {bucket}, options);
  REQUIRE(first);
  CHECK(free_lines() >= before);  // no line is lost to a rule
  const auto second = find_route(query, board, {bucket}, options);
  REQUIRE(second);
  CHECK(second->figures.from_roadmap);
  CHECK(second->kept.size() == 1);
  for (std::size_t i = 0; i + 1 < second->waypoints.size(); ++i)
    CHECK(rules.broken_between(second->waypoints[i], second->waypoints[i + 1]) < 0);
  // Without the rule there are other ways, which the rule did not spoil.
  const auto without = find_route(query, board, {bucket}, {.roadmap = &roadmap});
  REQUIRE(without);
  CHECK(without->kept.empty());
}

TEST_CASE("a route is repaired by rules: what breaks one is found anew") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  const Posture board = query.arm().stance("over_board");
  const Posture bucket = query.arm().stance("over_bucket");
  const RouteOptions options{.rules = {level(10.0)}};
  const Rules rules(query, options.rules);
  const auto tilted = find_route(query, board, {bucket});
  const auto upright = find_route(query, board, {bucket}, options);
  REQUIRE(tilted);
  REQUIRE(upright);
  // Nothing to do where the rule is kept already.
  const auto same = repair_route(query, upright->waypoints, options);
  REQUIRE(same);
  CHECK(same->route.waypoints == upright->waypoints);
  CHECK(same->broken_rule.empty());
  CHECK(same->route.kept.size() == 1);
  // A detour in the middle that tips the tool.
  std::vector<Posture> spoiled = upright->waypoints;
  Posture aside = 0.5 * (spoiled[0] + spoiled[1]);
  aside[4] -= 0.4;
  spoiled.insert(spoiled.begin() + 1, aside);
  REQUIRE(rules.broken_at(aside) >= 0);
  const auto repaired = repair_route(query, spoiled, options);
  REQUIRE(repaired);
  CHECK(repaired->broken_rule == "level");
  CHECK(repaired->route.waypoints.front() == board);
  CHECK(repaired->route.waypoints.back() == bucket);
  const auto& way = repaired->route.waypoints;
  for (std::size_t i = 0; i + 1 < way.size(); ++i)
    CHECK(rules.broken_between(way[i], way[i + 1]) < 0);
}
