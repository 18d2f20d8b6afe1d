// Many questions at once, one question under many settings, and what is told of turns.
#include "elbowroom/route/tuning.hpp"

#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>
#include <set>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/quantile.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/question_file.hpp"
#include "elbowroom/files/route_reading.hpp"
#include "elbowroom/route/many_routes.hpp"
#include "elbowroom/route/turn_notes.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"
#include "support/demo.hpp"
#include "support/folder.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;

namespace {

ReadyRoute ready_in(Clutter clutter, std::uint64_t seed) {
  const CellQuery query(clutter_cell(clutter), "");
  const RouteQuestion question = clutter_questions(query, clutter, 1, kClearance, seed).front();
  return {query, question.start, question.goals, {}};
}

RouteSetting setting(const std::string& label, const RouteOptions& options) {
  return {label, options};
}

}  // namespace

TEST_CASE("quantiles are the nearest of those there are") {
  CHECK(quantile({3.0, 1.0, 2.0}, 0.0) == 1.0);
  CHECK(quantile({3.0, 1.0, 2.0}, 0.5) == 2.0);
  CHECK(quantile({3.0, 1.0, 2.0}, 1.0) == 3.0);
  CHECK(median({5.0}) == 5.0);
  CHECK(std::isnan(median({})));
}

TEST_CASE(
    "tuning keeps what finds most, then what is near to cheapest, then what takes least work") {
  const ReadyRoute ready = ready_in(Clutter::window, 2);
  const RouteOptions base{.clearance = kClearance, .least_within = 0.0};
  RouteOptions hopeless = base;
  hopeless.tries = 1;
  RouteOptions loose = base;
  loose.shortcuts = 0;
  loose.searches = 1;
  RouteOptions improving = base;
  improving.planner = RoutePlanner::improving;
  improving.rounds = 2;
  const Tuning tuning = tune_route(
      ready,
      {setting("hopeless", hopeless), setting("loose", loose), setting("improving", improving)}, 3);
  REQUIRE(tuning.settings.size() == 3);
  CHECK(tuning.settings[0].found() == 0);
  CHECK(tuning.settings[1].found() == 3);
  CHECK(tuning.settings[2].found() == 3);
  CHECK(tuning.keep == 2);
  const auto lengths = tuning.settings[2].all(&TunedSeed::length);
  CHECK(median(lengths) < 0.7 * median(tuning.settings[1].all(&TunedSeed::length)));
  CHECK(tuning.settings[0].all(&TunedSeed::seconds).size() == 3);
  CHECK(tuning.settings[0].all(&TunedSeed::length).empty());
  for (const TunedSeed& seed : tuning.settings[1].seeds) {
    CHECK(seed.length == seed.length_found);
    CHECK(seed.length == Approx(path_length(seed.waypoints)));
    CHECK(seed.cost == Approx(seed.length));
    CHECK(seed.bends == static_cast<double>(seed.waypoints.size() - 2));
  }
  CHECK_THAT(tuning.summary(), StartsWith("yes: keep improving: 3 of 3 seeds find a route"));
  CHECK_THAT(tuning.report(ready.query.arm()),
             Contains("* improving") && Contains("hopeless") && Contains("0 of 3"));
  const std::string csv = tuning_csv(tuning);
  CHECK(std::count(csv.begin(), csv.end(), '\n') == 10);
  CHECK_THAT(csv, Contains("hopeless,1,no,") && Contains("loose,3,yes,"));

  const Tuning none = tune_route(ready, {setting("hopeless", hopeless)}, 2);
  CHECK_THAT(none.summary(),
             StartsWith("no: none of the settings finds a route with any of 2 seeds"));
  CHECK_THROWS_AS(tune_route(ready, {}, 2), InputError);
  CHECK_THROWS_AS(tune_route(ready, {setting("a", base)}, 0), InputError);
}

TEST_CASE("tuning twice gives the same answer, whatever the times") {
  const ReadyRoute ready = ready_in(Clutter::rack, 4);
  RouteOptions one{.clearance = kClearance, .searches = 1, .least_within = 0.0};
  RouteOptions three = one;
  three.searches = 3;
  const auto tune = [&] {
    return tune_route(ready, {setting("one", one), setting("three", three)}, 4);
  };
  const Tuning a = tune();
  const Tuning b = tune();
  CHECK(a.keep == b.keep);
  CHECK(a.waypoint.has_value() == b.waypoint.has_value());
  for (std::size_t i = 0; i < 2; ++i)
    CHECK(a.settings[i].all(&TunedSeed::work) == b.settings[i].all(&TunedSeed::work));
}

TEST_CASE("more clearance is kept where it costs no route") {
  const ReadyRoute ready = ready_in(Clutter::posts, 3);
  RouteOptions near{.clearance = 0.001, .least_within = 0.0};
  RouteOptions far = near;
  far.clearance = kClearance;
  const Tuning tuning = tune_route(ready, {setting("near", near), setting("far", far)}, 3);
  REQUIRE(tuning.settings[1].found() == 3);
  CHECK(tuning.keep == 1);
}

TEST_CASE("a waypoint is told where it makes a hard question easy, and it does") {
  // Of questions that take long with one search, each has a path through some posture of it.
  int told = 0;
  for (std::uint64_t seed = 1; seed <= 8; ++seed) {
    const ReadyRoute ready = ready_in(Clutter::mixed, seed);
    RouteOptions options{.clearance = kClearance, .searches = 1, .least_within = 0.0};
    const Tuning tuning = tune_route(ready, {setting("one", options)}, 5);
    if (!tuning.waypoint) continue;
    ++told;
    const TunedSetting& kept = tuning.settings.front();
    CHECK(tuning.waypoint->found >= kept.found());
    CHECK(ready.query.is_free(tuning.waypoint->posture, kClearance));
    if (tuning.waypoint->found == kept.found())
      CHECK(tuning.waypoint->work < 0.5 * median(kept.all(&TunedSeed::work)));
    CHECK(tuning.waypoint->length <= 1.1 * median(kept.all(&TunedSeed::length)) + 1e-12);
    CHECK_THAT(tuning.report(ready.query.arm()), Contains("a waypoint would help: through \""));
  }
  CHECK(told > 0);
}

TEST_CASE("many questions: each as if it were asked alone, and why some have no answer") {
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  const RouteQuestions asked = load_questions(DEMO_DIR "/stances.questions.yaml", cell);
  CHECK(asked.arm == "teasel");
  REQUIRE(asked.questions.size() == 12 + 18 + 1);  // none from a stance to itself
  const CellQuery query(cell, asked.arm);
  const ManyRoutes found = find_routes(query, asked.questions, {.clearance = kClearance});
  REQUIRE(found.answers.size() == asked.questions.size());
  CHECK(found.found() == 25);  // the back row is too deep for the wrist
  CHECK_THAT(found.summary(),
             StartsWith("no: 25 of 31 questions have a route; half of them within"));
  CHECK_THAT(found.report(query), Contains("lower shelf: before_kiln to lower_9: no: all") &&
                                      Contains("home to over_board"));
  const auto& board = found.answers[0];
  CHECK(board.name == "home to over_board");
  const auto alone = find_route(query, asked.questions[0].start, {asked.questions[0].end},
                                {.clearance = kClearance});
  CHECK(board.route->waypoints == alone->waypoints);
  CHECK(board.parts.travel == Approx(board.route->length));
  const std::string csv = routes_csv(found);
  CHECK(std::count(csv.begin(), csv.end(), '\n') == 32);
  const auto& any = asked.questions.back();
  CHECK(any.targets.size() == 3);
  const auto ready = make_ready(query, any, kClearance);
  REQUIRE(ready);
  CHECK(ready->goals.size() == ready->target_of_goal.size());
  CHECK(std::set<std::size_t>(ready->target_of_goal.begin(), ready->target_of_goal.end()).size() ==
        3);
}

TEST_CASE("question files with faults in them") {
  const Folder folder;
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  folder.write(
      "kiln.targets.yaml",
      "elbowroom: targets/1\narm: teasel\ntargets: [{name: a, position: [1 m, 0 m, 1 m]}]\n");
  const auto load = [&](const std::string& questions) {
    return load_questions(folder.write("q.yaml",
                                       "elbowroom: questions/1\narm: teasel\n"
                                       "targets: kiln.targets.yaml\nquestions:\n" +
                                           questions),
                          cell);
  };
  CHECK(load("  - {from: home, to: {target: a}}").questions.size() == 1);
  CHECK(load("  - {from: {posture: [0 deg, 0 deg, 0 deg, 0 deg, 0 deg, 0 deg]}, to: home}")
            .questions.front()
            .name == "a posture to home");
  CHECK_THROWS_WITH(load("  - {from: home, to: hoem}"), Contains("q.yaml:5:") && Contains("hoem"));
  CHECK_THROWS_WITH(load("  - {from: home, to: {target: b}}"), Contains("unknown target 'b'"));
  CHECK_THROWS_WITH(load("  - {from: {target: a}, to: home}"), Contains("'target'"));
  CHECK_THROWS_WITH(load("  - {from: home}"), Contains("'to'"));
  CHECK_THROWS_WITH(load("  - {from: home, to: home}"), Contains("there is no question"));
  CHECK_THROWS_WITH(load("  - {from: home, to: []}"), Contains("an empty list"));
  CHECK_THROWS_WITH(load("  - {from: home, to: {stance: home, target: a}}"),
                    Contains("is one thing"));
}

TEST_CASE("settings of a search, read by their names") {
  RouteOptions options;
  const auto read = [&](const std::string& text) {
    const Node node = parse_document("{" + text + "}", "test");
    for (const Node::Entry& entry : node.entries) read_route_option(entry, options);
  };
  read(
      "clearance: 8 mm, searches: 5, improve: 7, shortcuts: 9, worthwhile: 0.1, tries: 11, "
      "tool: 2, swing: 3, near: 4, near_within: 40 mm, bends: 5");
  CHECK(options.clearance == Approx(0.008));
  CHECK(options.searches == 5);
  CHECK(options.planner == RoutePlanner::improving);
  CHECK(options.rounds == 7);
  CHECK(options.shortcuts == 9);
  CHECK(options.worthwhile == 0.1);
  CHECK(options.tries == 11);
  CHECK(options.cost ==
        RouteCost{.tool = 2.0, .swing = 3.0, .near = 4.0, .near_within = 0.04, .bends = 5.0});
  read("improve: 0");
  CHECK(options.planner == RoutePlanner::two_trees);
  for (const std::string& key : route_option_keys()) {
    CHECK_THROWS_AS(read(key + ": -1"), InputError);
    CHECK_THROWS_AS(read(key + ": home"), InputError);
  }
  CHECK_THROWS_WITH(read("serches: 1"), Contains("searches"));
  CHECK_THROWS_WITH(read_route_cost(parse_document("{tols: 1}", "test")), Contains("tool"));
}

TEST_CASE("full turns that were chosen, and large jumps, are told") {
  Link wide = turning("wide", {0, 0, 0}, Vector3::UnitZ());
  wide.joint.limits.lower = -6.0;
  wide.joint.limits.upper = 6.0;
  Link endless = turning("endless", {0, 0, 0.1}, Vector3::UnitZ());
  endless.joint.continuous = true;
  endless.joint.limits.lower = -std::numeric_limits<double>::infinity();
  endless.joint.limits.upper = std::numeric_limits<double>::infinity();
  const Arm arm = Arm::build({.name = "turner",
                              .links = {{.name = "base"},
                                        wide,
                                        endless,
                                        turning("narrow", {0, 0, 0.1}, Vector3::UnitZ()),
                                        sliding("slide", {0, 0, 0.1}, Vector3::UnitZ())}});
  const double turn = 2.0 * std::numbers::pi;
  const Posture start = values({0.5, 0.0, 0.0, 0.0});
  const Posture end = values({5.0, 1.0, 2.0, 0.1});
  const auto notes = full_turn_notes(arm, start, end);
  REQUIRE(notes.size() == 2);
  CHECK_THAT(notes[0], StartsWith("base_to_wide ends at 286.48 deg") &&
                           Contains("at -73.52 deg: the longer way"));
  CHECK_THAT(notes[1],
             StartsWith("wide_to_endless ends at 57.30 deg") && Contains("the shorter way"));

  const auto jumps =
      large_jumps(arm, {start, end, values({5.0 - turn, 1.0, -1.0, -0.19})}, {"a", "b", "c"});
  REQUIRE(jumps.size() == 3);
  CHECK_THAT(
      jumps[0],
      StartsWith("from a to b base_to_wide turns by 257.83 deg; at -73.52 deg it would be in "
                 "the same place after -102.17 deg"));
  CHECK_THAT(jumps[1], StartsWith("from b to c base_to_wide turns by -360.00 deg"));
  CHECK_THAT(jumps[2], StartsWith("from b to c narrow_to_slide slides by -290.0 mm"));
  CHECK(large_jumps(arm, {start, start}, {"a", "b"}).empty());
}
