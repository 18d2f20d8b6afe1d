#include "elbowroom/route/route.hpp"

#include <catch2/catch.hpp>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/collision/certificate.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/route/nearest_free.hpp"
#include "elbowroom/route/no_route.hpp"
#include "elbowroom/route/repair.hpp"
#include "elbowroom/route/tighten.hpp"
#include "elbowroom/route/two_trees.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"
#include "support/sampled.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;

namespace {

// The planar arm with a post it must fold up to pass: stretched out it would hit it.
CellQuery with_post() {
  const Body post{
      .name = "post", .at = Pose::at({0.6, 0, 0}), .parts = {{.shape = Cylinder{0.03, 0.4}}}};
  return {Cell::build({.arms = {planar_arm()}, .fixtures = {post}}), "flat"};
}

}  // namespace

TEST_CASE("a free straight line is the route") {
  const CellQuery query = with_post();
  const auto route = find_route(query, values({1.0, 0.0}), {values({2.5, 0.0})});
  REQUIRE(route);
  CHECK(route->waypoints.size() == 2);
  CHECK(route->length == Approx(1.5));
  CHECK(route->figures.tries == 0);
  CHECK_THAT(route->summary(query), Contains("; least: flat."));
  // Left out, it is not told as if nothing was near.
  const auto quick = find_route(query, values({1.0, 0.0}), {values({2.5, 0.0})},
                                {.clearance = 0.01, .least_within = 0.0});
  REQUIRE(quick);
  CHECK(quick->least.lower == 0.01);
  CHECK_THAT(quick->summary(query), !Contains("least"));
}

TEST_CASE("a way round a post is found, keeps its clearance, and is tight") {
  const CellQuery query = with_post();
  const Posture left = values({0.6, 0.0}), right = values({-0.6, 0.0});
  const auto route = find_route(query, left, {right}, {.clearance = 0.01});
  REQUIRE(route);
  CHECK(route->waypoints.front() == left);
  CHECK(route->waypoints.back() == right);
  CHECK(test::sampled_least(query, route->waypoints, 2000) > 0.01);
  CHECK(route->least.lower > 0.01 - 1e-9);
  CHECK(route->length <= route->figures.length_found + 1e-12);
  CHECK(route->length < 8.0);  // folding up costs about 2 x 2.2 rad of elbow on top of 1.2 rad
  CHECK_THAT(route->summary(query), StartsWith("yes: ") && Contains("proved to keep 10.0 mm"));
}

TEST_CASE("the same seed gives the same route to the last bit, another seed another") {
  const CellQuery query = with_post();
  const auto ask = [&](std::uint64_t seed) {
    return find_route(query, values({0.6, 0.0}), {values({-0.6, 0.0})}, {.seed = seed})
        .value()
        .waypoints;
  };
  CHECK(ask(1) == ask(1));
  CHECK(ask(1) != ask(2));
}

TEST_CASE("many random routes on the demo cell survive a fine sampling") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  RandomStream random(71);
  const auto free_posture = [&] {
    while (true) {
      const Posture q = random_posture(random, query.arm());
      if (query.is_free(q, 0.005)) return q;
    }
  };
  int found = 0;
  for (int i = 0; i < 12; ++i) {
    const auto route = find_route(query, free_posture(), {free_posture()},
                                  {.seed = static_cast<std::uint64_t>(i), .tries = 3000});
    if (!route) continue;
    ++found;
    CHECK(test::sampled_least(query, route->waypoints, 300) > 0.005);
  }
  CHECK(found >= 8);
}

TEST_CASE("of several goals one that can be got to is taken, and said which") {
  const CellQuery query = with_post();
  const Posture blocked = values({0.0, 0.0});
  const Posture open = values({1.4, 0.2});
  const auto route = find_route(query, values({0.9, 0.0}), {blocked, open});
  REQUIRE(route);
  CHECK(route->goal == 1);
  CHECK(route->waypoints.back() == open);
}

TEST_CASE("each kind of no names what is wrong") {
  const CellQuery query = with_post();
  const auto start = find_route(query, values({0.0, 0.0}), {values({1.0, 0.0})});
  REQUIRE_FALSE(start);
  CHECK(start.reason().cause == Cause::start_blocked);
  CHECK_THAT(start.reason().text,
             StartsWith("no: at the start: flat.fore and post, ") && Contains("mm deep"));
  const auto goal = find_route(query, values({1.0, 0.0}), {values({0.0, 3.1})});
  REQUIRE_FALSE(goal);
  CHECK(goal.reason().cause == Cause::goal_blocked);
  CHECK_THAT(goal.reason().text,
             Contains("joint upper_to_fore would be at 177.62 deg, limit 171.89 deg"));
  const auto goals =
      find_route(query, values({1.0, 0.0}), {values({0.0, 0.0}), values({0.05, 0.0})});
  REQUIRE_FALSE(goals);
  CHECK_THAT(goals.reason().text,
             StartsWith("no: none of the 2 goals can be stood at; the first: "));
  const auto close =
      find_route(query, values({1.0, 0.0}), {values({0.12, 0.0})}, {.clearance = 0.2});
  REQUIRE_FALSE(close);
  CHECK_THAT(close.reason().text, Contains("mm apart, where 200.0 mm of clearance is asked for"));
}

TEST_CASE("a blocked start or goal comes with a free posture nearby, from which there is a route") {
  const CellQuery query = with_post();
  const Posture start = values({1.0, 0.0});
  const Posture blocked = values({0.02, 0.0});
  for (const bool at_goal : {true, false}) {
    const auto route = at_goal ? find_route(query, start, {blocked}, {.clearance = 0.01})
                               : find_route(query, blocked, {start}, {.clearance = 0.01});
    REQUIRE(!route);
    const Reason& reason = route.reason();
    REQUIRE(reason.postures.size() == 1);
    const Posture& free = reason.postures.front();
    CHECK(query.is_free(free, 0.01));
    // The least turn of the shoulder that would do is known: the fore link is 10 mm thick to each
    // side of its middle, the post 30 mm, both 600 mm out.
    CHECK((free - blocked).norm() < std::asin(0.050 / 0.6) + 0.03);
    REQUIRE(reason.remedies.size() == 1);
    CHECK_THAT(reason.remedies.front().text,
               StartsWith(at_goal ? "end with " : "start with ") && Contains("the rest as asked"));
    CHECK(bool(
        find_route(query, at_goal ? start : free, {at_goal ? free : start}, {.clearance = 0.01})));
    // Told by values that are just these.
    Posture told = blocked;
    for (int j = 0; j < told.size(); ++j) {
      const std::string of = query.arm().moving_joint(j).name + " at ";
      const std::string& text = reason.remedies.front().text;
      if (const std::size_t at = text.find(of); at != std::string::npos)
        told[j] = std::stod(text.substr(at + of.size())) * std::numbers::pi / 180.0;
    }
    CHECK((told - free).norm() < 1e-12);
  }
  // Out of its range, the nearest is at its end.
  const auto out = nearest_free(query, values({1.0, 3.2}), 0.0);
  REQUIRE(out);
  CHECK((*out)[0] == 1.0);
  CHECK((*out)[1] == Approx(171.88 * std::numbers::pi / 180.0).margin(1e-12));
  // All walled in there is none.
  const CellQuery walled(
      Cell::build({.arms = {planar_arm()}, .fixtures = {box_body("block", {3, 3, 3}, {0, 0, 0})}}),
      "flat");
  CHECK(!nearest_free(walled, start, 0.0));
}

TEST_CASE("a walled-in goal: how hard it tried and what was in the way") {
  // A fence between the two sides that even the folded arm cannot pass.
  CellDescription d{.arms = {planar_arm()}};
  d.fixtures = {box_body("fence_a", {0.9, 0.01, 0.1}, {0.5, 0, 0}),
                box_body("fence_b", {0.9, 0.01, 0.1}, {-0.5, 0, 0})};
  const CellQuery query(Cell::build(d), "flat");
  const auto route = find_route(query, values({1.5, 0.0}), {values({-1.5, 0.0})}, {.tries = 300});
  REQUIRE_FALSE(route);
  CHECK(route.reason().cause == Cause::no_route);
  CHECK_THAT(route.reason().text,
             StartsWith("no: there can be no route: joint base_to_upper has to pass ") &&
                 Contains("flat.upper and fence_a are 15.0 mm deep in each other whatever the "
                          "other joints do"));
  // Taking away what bars it would do, and was tried.
  REQUIRE(route.reason().remedies.size() == 1);
  CHECK(route.reason().remedies[0].text == "fence_a out of the way");
  const auto plain = find_route(query, values({1.5, 0.0}), {values({-1.5, 0.0})},
                                {.tries = 300, .find_remedies = false});
  CHECK_THAT(plain.reason().text, StartsWith("no: no route found in 300 tries (") &&
                                      Contains("lines were blocked most by flat."));
}

TEST_CASE("a zone may bar a route, too, but nobody is told to take it away") {
  CellDescription d{.arms = {planar_arm()}};
  const Part fence{.shape = Box{{0.9, 0.01, 0.1}}};
  d.zones = {{.name = "lane", .at = Pose::at({0.5, 0, 0}), .parts = {fence}},
             {.name = "other_lane", .at = Pose::at({-0.5, 0, 0}), .parts = {fence}}};
  const CellQuery query(Cell::build(d), "flat");
  const auto route = find_route(query, values({1.5, 0.0}), {values({-1.5, 0.0})}, {.tries = 200});
  REQUIRE_FALSE(route);
  CHECK_THAT(route.reason().text, StartsWith("no: there can be no route") && Contains("lane"));
  CHECK(route.reason().remedies.empty());
}

TEST_CASE("a barrier is one for every posture: no sample of the other joints gets past it") {
  RandomStream random(51);
  CellDescription d{.arms = {planar_arm()}};
  d.fixtures = {box_body("bar", {0.04, 0.04, 0.6}, {0.2, 0.2, 0.0})};
  const CellQuery query(Cell::build(d), "");
  int found = 0;
  for (int i = 0; i < 40; ++i) {
    const Posture from = random.between(query.arm().limits().lower, query.arm().limits().upper);
    const Posture to = random.between(query.arm().limits().lower, query.arm().limits().upper);
    const auto barrier = find_barrier(query, from, to, 0.005);
    if (!barrier) continue;
    ++found;
    for (int k = 0; k < 200; ++k) {
      Posture q = random.between(query.arm().limits().lower, query.arm().limits().upper);
      q[barrier->joint] = barrier->value;
      REQUIRE_FALSE(query.is_free(q, 0.005));
    }
    const double low = std::min(from[barrier->joint], to[barrier->joint]);
    const double high = std::max(from[barrier->joint], to[barrier->joint]);
    REQUIRE(barrier->value >= low - 1e-12);
    REQUIRE(barrier->value <= high + 1e-12);
  }
  CHECK(found > 5);
  CHECK(found < 40);
  // And where there is a route, there is none.
  const CellQuery open(clutter_cell(Clutter::posts), "");
  for (const RouteQuestion& question : clutter_questions(open, Clutter::posts, 20, 0.005, 9))
    CHECK_FALSE(find_barrier(open, question.start, question.goals.front(), 0.005));
}

TEST_CASE(
    "no route at the clearance asked for: with how much there is one, and where it is narrow") {
  // A gate that the folded arm passes with about 4 mm to each side.
  CellDescription d{.arms = {planar_arm()}};
  d.fixtures = {box_body("gate", {0.6, 0.02, 0.1}, {0.76, 0, 0})};
  const CellQuery query(Cell::build(d), "flat");
  const Posture start = values({1.0, 2.0});
  const Posture goal = values({-1.0, -2.0});
  const auto wide = find_route(query, start, {goal}, {.clearance = 0.001, .tries = 4000});
  REQUIRE(wide);
  const double room = wide->least.nearest.distance;
  const auto narrow = find_route(query, start, {goal}, {.clearance = 0.06, .tries = 1500});
  INFO(room);
  REQUIRE_FALSE(narrow);
  bool tells = false;
  for (const Remedy& remedy : narrow.reason().remedies)
    tells = tells || (remedy.text.find("of clearance: the narrowest place") != std::string::npos &&
                      remedy.text.find("gate") != std::string::npos);
  for (const Remedy& remedy : narrow.reason().remedies) UNSCOPED_INFO(remedy.text);
  CHECK(tells);
}

TEST_CASE("a search that is told to stop, stops") {
  const CellQuery query = with_post();
  std::stop_source source;
  source.request_stop();
  const auto route = find_route(query, values({0.6, 0.0}), {values({-0.6, 0.0})}, {},
                                {.progress = {}, .stop = source.get_token()});
  REQUIRE_FALSE(route);
  CHECK(route.reason().text == "no: told to stop after 0 tries, before a route was found");
}

TEST_CASE("routes that cannot be asked for") {
  const CellQuery query = with_post();
  const Posture q = values({1.0, 0.0});
  CHECK_THROWS_WITH(find_route(query, values({1.0}), {q}),
                    StartsWith("the start of the route has 1 value, arm 'flat' has 2"));
  CHECK_THROWS_WITH(find_route(query, q, {}), "a route needs at least one goal");
  CHECK_THROWS_WITH(find_route(query, q, {q}, {.clearance = -0.001}),
                    "the clearance must be zero or more, found -1 mm");
}

TEST_CASE("tightening never lengthens, keeps the ends, and stays proved") {
  const CellQuery query = with_post();
  LineProver prover(query, 0.0);
  CostMeter meter(query, {}, 0.0);
  TwoTrees trees(query.arm(), values({0.6, 0.0}), {values({-0.6, 0.0})}, 3);
  REQUIRE(trees.grow(20000, prover, {}));
  const Way& raw = trees.way();
  REQUIRE(raw.waypoints.size() > 2);
  const auto tight = tighten(raw.waypoints, {.shortcuts = 400}, 3, prover, meter);
  CHECK(path_length(tight) <= path_length(raw.waypoints) + 1e-12);
  CHECK(tight.front() == raw.waypoints.front());
  CHECK(tight.back() == raw.waypoints.back());
  for (std::size_t i = 0; i + 1 < tight.size(); ++i) CHECK(prover.is_free(tight[i], tight[i + 1]));
  CHECK(tighten(raw.waypoints, {.shortcuts = 0}, 3, prover, meter) == raw.waypoints);
}

TEST_CASE("tightening cuts off corners, by as much as is free, and counts what it tries") {
  const CellQuery query = with_post();
  CostMeter meter(query, {}, 0.0);
  // In the free, and round what stands between the ends.
  LineProver prover(query, 0.0);
  const std::vector<Posture> bent{values({0.6, 0.0}), values({0.9, 0.4}), values({1.2, 0.0})};
  CHECK(tighten(bent, {}, 3, prover, meter) == std::vector<Posture>{bent.front(), bent.back()});
  TwoTrees trees(query.arm(), values({0.6, 0.0}), {values({-0.6, 0.0})}, 3);
  REQUIRE(trees.grow(20000, prover, {}));
  const std::vector<Posture> raw = trees.way().waypoints;
  REQUIRE_FALSE(prover.is_free(raw.front(), raw.back()));
  LineProver counting(query, 0.0);
  const auto tight = tighten(raw, {.shortcuts = 8}, 3, counting, meter);
  const auto tighter = tighten(raw, {.shortcuts = 400, .worthwhile = 1e-4}, 3, prover, meter);
  CHECK(path_length(tight) <= path_length(raw) + 1e-12);
  CHECK(path_length(tighter) <= path_length(tight) + 1e-12);
  // Eight, and what leaving out waypoints takes.
  const auto all = static_cast<long>(raw.size() + 16);
  CHECK(counting.lines() <= 8 + all * all / 2);
}

TEST_CASE("in a changed cell: what still stands of a route, the first contact, the repaired rest") {
  const Cell cell = clutter_cell(Clutter::posts);
  const CellQuery query(cell, "");
  constexpr double kKept = 0.005;
  int repaired = 0;
  for (const RouteQuestion& question : clutter_questions(query, Clutter::posts, 12, kKept, 5)) {
    const auto found = find_route(query, question.start, question.goals, {.clearance = kKept});
    REQUIRE(found);
    std::vector<Posture> waypoints = found->waypoints;
    // More moves on the same way.
    waypoints.insert(waypoints.begin() + 1, 0.5 * (waypoints[0] + waypoints[1]));
    REQUIRE(still_free(query, waypoints, kKept).is_all());
    // A ball where the hand comes by, half-way along the last move.
    const Posture there = 0.5 * (waypoints.back() + waypoints[waypoints.size() - 2]);
    CellDescription changed;
    changed.arms = cell.arms();
    changed.contacts = cell.contacts();
    changed.fixtures = cell.fixtures();
    changed.fixtures.push_back(
        {.name = "ball",
         .at = Pose::at(tool_pose(query.arm(), query.arm().tool({}), there).position),
         .parts = {{.shape = Sphere{0.06}}}});
    const CellQuery now(Cell::build(changed), "");
    const StillFree still = still_free(now, waypoints, kKept);
    REQUIRE_FALSE(still.is_all());
    INFO(still.text(now, kKept));
    if (still.share == 0.0) {
      CHECK_FALSE(now.is_free(waypoints[still.moves], kKept));
      continue;
    }
    // Brute force: free until just before, too near just after.
    const Posture& from = waypoints[still.moves];
    const Posture step = waypoints[still.moves + 1] - from;
    for (int k = 0; k <= 400; ++k)
      REQUIRE(now.is_free(from + still.share * k / 400.0 * step, kKept));
    CHECK_FALSE(now.is_free(from + (still.share + 2e-6) * step, kKept + 2e-7));
    CHECK(now.name(still.contact.second) == "ball");
    const auto again = repair_route(now, waypoints, {.clearance = kKept});
    if (!again) continue;  // its end may be blocked
    ++repaired;
    CHECK(again->route.cost == Approx(path_length(again->route.waypoints)));
    CHECK(again->before.moves == still.moves);
    CHECK(again->kept == still.moves);
    const std::vector<Posture>& route = again->route.waypoints;
    for (std::size_t i = 0; i <= again->kept; ++i) CHECK(route[i] == waypoints[i]);
    for (std::size_t i = 0; i <= again->again; ++i)
      CHECK(route[route.size() - 1 - i] == waypoints[waypoints.size() - 1 - i]);
    CHECK(certify(now, route, {.clearance = kKept}));
    CHECK(again->route.least.nearest.distance > kKept);
    CHECK(again->route.length == Approx(path_length(route)));
    CHECK(again->route.figures.length_found >= again->route.length - 1e-9);
    CHECK(again->route.figures.lines > 0);
  }
  CHECK(repaired >= 3);
}
