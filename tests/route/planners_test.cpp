// Planners, what they are made of, and what they do with a question's cost.
#include <tbb/global_control.h>
#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/route/improve.hpp"
#include "elbowroom/route/informed_samples.hpp"
#include "elbowroom/route/posture_graph.hpp"
#include "elbowroom/route/race.hpp"
#include "elbowroom/route/route.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

CellQuery alone(const Arm& arm) { return {Cell::build({.arms = {arm}}), arm.name()}; }

PlannerQuestion question_of(const RouteQuestion& asked) {
  return {.start = asked.start, .goals = asked.goals};
}

// The cost of the cheapest path between two nodes by relaxing all lines as often as there are nodes
// (Bellman and Ford): the free ones alone.
double cheapest_by_relaxing(const PostureGraph& graph, int from, int to,
                            const std::vector<bool>& free) {
  std::vector<double> cost(static_cast<std::size_t>(graph.size()), 1e9);
  cost[static_cast<std::size_t>(from)] = 0.0;
  for (int round = 0; round < graph.size(); ++round)
    for (std::size_t i = 0; i < graph.lines().size(); ++i) {
      if (!free[i]) continue;
      const PostureGraph::Line& line = graph.lines()[i];
      const double length = (graph.posture(line.first) - graph.posture(line.second)).norm();
      double& a = cost[static_cast<std::size_t>(line.first)];
      double& b = cost[static_cast<std::size_t>(line.second)];
      a = std::min(a, b + length);
      b = std::min(b, a + length);
    }
  return cost[static_cast<std::size_t>(to)];
}

}  // namespace

TEST_CASE("what a route costs, against figures worked out by hand") {
  const CellQuery query = alone(planar_arm());
  CostMeter meter(query, {.travel = 2.0, .tool = 3.0, .swing = 5.0, .bends = 7.0}, kClearance);
  // The shoulder turns by 1 rad, then the elbow by 0.5: of three points the first stands still, the
  // elbow goes 0.4 m, the tip 0.7 m; then the tip alone 0.3 x 0.5 m. Chords in place of arcs of 0.1
  // rad are 4e-4 short.
  const std::vector<Posture> way{values({0, 0}), values({1, 0}), values({1, 0.5})};
  const CostParts parts = meter.parts_of(way);
  CHECK(parts.travel == Approx(1.5));
  CHECK(parts.tool == Approx(0.7 + 0.15).epsilon(1e-3));
  CHECK(parts.swing == Approx((0.4 + 0.7 + 0.15) / 3.0).epsilon(1e-3));
  CHECK(parts.near == 0.0);
  CHECK(parts.bends == Approx(std::numbers::pi / 2.0));
  CHECK(meter.of(way) == Approx(parts.weighed(meter.cost())));
  CHECK(meter.of(way) ==
        Approx(meter.of(way[0], way[1]) + meter.of(way[1], way[2]) + 7.0 * std::numbers::pi / 2.0));
  CHECK(meter.at_least(way[0], way[2]) <= meter.of({way[0], way[2]}));
  CHECK(meter.of({way[0]}) == 0.0);
}

TEST_CASE("what is near costs by how near it is") {
  // A wall that the straight arm points at: its end is 100 mm away, and 20 mm when it has slid.
  const Body wall{
      .name = "wall", .at = Pose::at({0.3, 0, 0}), .parts = {{.shape = Box{{0.1, 1, 1}}}}};
  const Part bar{.shape = Box{{0.1, 0.02, 0.02}}};
  Link slide = sliding("slide", {0, 0, 0}, Vector3::UnitX(), {bar});
  const Arm arm = Arm::build({.name = "slider", .links = {{.name = "base"}, slide}});
  const CellQuery query(Cell::build({.arms = {arm}, .fixtures = {wall}}), "slider");
  CostMeter meter(query, {.near = 1.0, .near_within = 0.08}, 0.0);
  REQUIRE(query.nearest(values({0.0})).distance == Approx(0.2));
  // Levels at 20, 40, 60 and 80 mm: at 190 mm nothing, at 70 mm one, at 30 mm three.
  CHECK(meter.parts_of({values({0.0}), values({0.02})}).near == 0.0);
  CHECK(meter.parts_of({values({0.129}), values({0.131})}).near == Approx(0.002 / 4));
  CHECK(meter.parts_of({values({0.169}), values({0.171})}).near == Approx(0.002 * 3 / 4));
}

TEST_CASE("costs that cannot be weighed") {
  const CellQuery query = alone(planar_arm());
  CHECK_THROWS_WITH(CostMeter(query, {.travel = 0.0}, 0.0), Contains("joint travel"));
  CHECK_THROWS_WITH(CostMeter(query, {.tool = -1.0}, 0.0), Contains("zero or more"));
  CHECK_THROWS_WITH(CostMeter(query, {.swing = std::nan("")}, 0.0), Contains("zero or more"));
  CHECK_THROWS_WITH(CostMeter(query, {.near = 1.0, .near_within = 0.0}, 0.0), Contains("within"));
  CHECK_THROWS_WITH(find_route(query, values({0, 0}), {values({1, 0})}, {.cost = {.travel = -1.0}}),
                    Contains("zero or more"));
}

TEST_CASE("the nearest postures are those of a plain search, also after some were taken away") {
  RandomStream random(5);
  const Posture low = Posture::Constant(7, -3.0);
  NearestPostures near(7);
  std::vector<Posture> all;
  const auto check = [&] {
    for (int i = 0; i < 20; ++i) {
      const Posture to = random.between(low, -low);
      std::vector<int> order(all.size());
      for (std::size_t k = 0; k < order.size(); ++k) order[k] = static_cast<int>(k);
      std::sort(order.begin(), order.end(), [&](int a, int b) {
        return (all[static_cast<std::size_t>(a)] - to).norm() <
               (all[static_cast<std::size_t>(b)] - to).norm();
      });
      std::vector<int> found;
      near.nearest(to, 6, found);
      order.resize(6);
      CHECK(found == order);
      CHECK(near.nearest(to) == order.front());
    }
  };
  for (int i = 0; i < 203; ++i) {
    all.push_back(random.between(low, -low));
    near.add(all.back());
  }
  check();
  near.keep(90);
  all.resize(90);
  check();
  near.add(all.emplace_back(random.between(low, -low)));
  check();
  std::vector<int> found;
  near.nearest(all.front(), 1000, found);
  CHECK(found.size() == all.size());
}

TEST_CASE("the cheapest path of a graph is that of relaxing all its lines") {
  const CellQuery query(clutter_cell(Clutter::posts), "");
  const Arm& arm = query.arm();
  RandomStream random(11);
  int found = 0;
  for (int round = 0; round < 8; ++round) {
    PostureGraph graph(arm.dof());
    while (graph.size() < 80) {
      const Posture q = random_posture(random, arm);
      if (query.is_free(q, kClearance)) graph.add(q);
    }
    for (int node = 0; node < graph.size(); ++node) graph.join_to_nearest(node, 8);
    LineProver prover(query, kClearance);
    std::vector<bool> free;
    for (const PostureGraph::Line& line : graph.lines())
      free.push_back(prover.is_free(graph.posture(line.first), graph.posture(line.second)));
    const double least = cheapest_by_relaxing(graph, 0, 1, free);
    LineProver lazy(query, kClearance);
    CostMeter meter(query, {}, kClearance);
    const auto path = graph.cheapest(0, std::vector<int>{1}, 1e9, lazy, meter);
    CHECK(path.has_value() == (least < 1e9));
    CHECK(lazy.lines() <= std::ssize(graph.lines()));
    if (!path) continue;
    ++found;
    CHECK(path->cost == Approx(least));
    CHECK(path_length(graph.postures(path->nodes)) == Approx(least));
    CHECK(graph.prove(path->nodes, prover));
    CHECK_FALSE(graph.cheapest(0, std::vector<int>{1}, least * (1.0 - 1e-9), lazy, meter));
    const std::vector<int> regions = graph.regions();
    CHECK(regions[0] == regions[1]);  // by lines that the search proved
  }
  CHECK(found > 1);
}

TEST_CASE("a graph forgets what was added last, and takes up ways") {
  const CellQuery query = alone(planar_arm());
  PostureGraph graph(2);
  for (int i = 0; i < 5; ++i) graph.add(values({0.1 * i, 0.0}));
  for (int i = 0; i < 5; ++i) graph.join_to_nearest(i, 2);
  const std::size_t lines = graph.lines().size();
  const std::vector<int> nodes =
      graph.add_way({values({0, 0}), values({0, 1}), values({1, 1})}, 0.4, 0);
  CHECK(nodes.size() == 7);  // three pieces each
  CHECK(nodes.front() == 0);
  for (std::size_t i = 0; i + 1 < nodes.size(); ++i)
    CHECK((graph.posture(nodes[i + 1]) - graph.posture(nodes[i])).norm() <= 0.4 + 1e-12);
  graph.keep(5, lines);
  CHECK(graph.size() == 5);
  CHECK(graph.lines().size() == lines);
  LineProver prover(query, 0.0);
  CostMeter meter(query, {}, 0.0);
  CHECK(graph.cheapest(0, std::vector<int>{4}, 10.0, prover, meter)->cost == Approx(0.4));
  graph.join(0, 4, PostureGraph::State::blocked);
  graph.join(0, 4);  // what is known stays
  CHECK(graph.lines().back().state == PostureGraph::State::blocked);
}

TEST_CASE("informed samples are on ways that are short enough, and all over the ellipsoid") {
  RandomStream random(3);
  const Posture wide = Posture::Constant(4, 10.0);
  const Posture a = values({1.0, -2.0, 0.5, 0.0});
  const Posture b = values({-1.0, 1.0, 0.0, 2.0});
  const double apart = (b - a).norm();
  const double longest = 1.3 * apart;
  Posture mean = Posture::Zero(4);
  double longest_seen = 0.0;
  int inner = 0;
  constexpr int kSamples = 4000;
  for (int i = 0; i < kSamples; ++i) {
    const auto q = informed_sample(a, b, longest, -wide, wide, random);
    REQUIRE(q);
    const double way = (*q - a).norm() + (b - *q).norm();
    CHECK(way <= longest * (1.0 + 1e-12));
    longest_seen = std::max(longest_seen, way);
    mean += *q / kSamples;
    // A shrunk copy of the ellipsoid about its centre holds a share of it that follows from its
    // size.
    const Posture scaled = 0.5 * (a + b) + 2.0 * (*q - 0.5 * (a + b));
    inner += (scaled - a).norm() + (b - scaled).norm() <= longest ? 1 : 0;
  }
  CHECK((mean - 0.5 * (a + b)).norm() < 0.1);
  CHECK(longest_seen > 0.98 * longest);
  CHECK(inner == Approx(kSamples / 16.0).margin(60.0));  // (1/2)^4, four times the scatter
  CHECK_FALSE(informed_sample(a, b, apart * 0.99, -wide, wide, random));
  const Posture narrow = Posture::Constant(4, 1e-3);
  CHECK_FALSE(informed_sample(a, b, longest, -narrow, narrow, random));
}

TEST_CASE("planners give the same on one thread and on two") {
  for (const Clutter clutter : {Clutter::window, Clutter::rack}) {
    const CellQuery query(clutter_cell(clutter), "");
    for (const RouteQuestion& asked :
         clutter_questions(query, clutter, kSanitized ? 1 : 3, kClearance, 4)) {
      for (const RoutePlanner planner : {RoutePlanner::two_trees, RoutePlanner::improving}) {
        const auto ask = [&](std::size_t threads) {
          const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
          return find_route(
              query, asked.start, asked.goals,
              {.clearance = kClearance, .searches = 4, .planner = planner, .rounds = 3});
        };
        const auto one = ask(1);
        const auto two = ask(2);
        REQUIRE(one);
        REQUIRE(two);
        CHECK(one->waypoints == two->waypoints);
        CHECK(one->figures.tries == two->figures.tries);
        CHECK(one->figures.lines == two->figures.lines);
        CHECK(one->figures.checks == two->figures.checks);
        CHECK(one->figures.costs == two->figures.costs);
      }
    }
  }
}

TEST_CASE("an improving search only gets cheaper, stays proved, and ends when little is gained") {
  const CellQuery query(clutter_cell(Clutter::window), "");
  double first = 0.0;
  double last = 0.0;
  for (const RouteQuestion& asked : clutter_questions(query, Clutter::window, 6, kClearance, 9)) {
    LineProver prover(query, kClearance);
    PlannerQuestion question = question_of(asked);
    question.rounds = 12;
    const Search search = improve(question, prover, {});
    REQUIRE(search.way.exists());
    CHECK(std::is_sorted(search.costs.rbegin(), search.costs.rend()));
    CHECK(search.costs.size() <= 13);
    CHECK(search.way.cost == search.costs.back());
    CHECK(path_length(search.way.waypoints) == Approx(search.way.cost));
    CHECK(search.way.waypoints.front() == asked.start);
    CHECK(search.way.waypoints.back() == asked.goals[search.way.goal]);
    CHECK_FALSE(search.out_of_time);
    const auto& way = search.way.waypoints;
    LineProver again(query, kClearance);
    for (std::size_t i = 0; i + 1 < way.size(); ++i) CHECK(again.is_free(way[i], way[i + 1]));
    first += search.costs.front();
    last += search.costs.back();
  }
  CHECK(last < 0.9 * first);
}

TEST_CASE("a search that time ends says so") {
  const CellQuery query(clutter_cell(Clutter::window), "");
  const RouteQuestion asked = clutter_questions(query, Clutter::window, 1, kClearance, 2).front();
  const auto quick = find_route(query, asked.start, asked.goals, {.clearance = kClearance});
  REQUIRE(quick);
  const auto cut = find_route(query, asked.start, asked.goals,
                              {.clearance = kClearance,
                               .planner = RoutePlanner::improving,
                               .rounds = 100000,
                               .seconds = 0.05 + 3.0 * quick->figures.seconds,
                               .worthwhile = 0.0});
  REQUIRE(cut);
  REQUIRE(cut->waypoints.size() > 2);
  CHECK(cut->figures.out_of_time);
  CHECK_THAT(cut->report(query), Contains("ended by the time"));
  const auto none =
      find_route(query, asked.start, asked.goals, {.clearance = kClearance, .seconds = 1e-9});
  REQUIRE_FALSE(none);
  CHECK_THAT(none.reason().text, Contains("for which there were 1e-09 s"));
  CHECK_THROWS_WITH(find_route(query, asked.start, asked.goals, {.seconds = 0.0}),
                    Contains("needs time"));
}

TEST_CASE("what a cost weighs, routes get less of") {
  const CellQuery query(clutter_cell(Clutter::rack), "");
  CostParts plain;
  CostParts less_tool;
  CostParts further;
  for (const RouteQuestion& asked :
       clutter_questions(query, Clutter::rack, kSanitized ? 2 : 5, kClearance, 3)) {
    const auto parts = [&](const RouteCost& cost) {
      const auto route = find_route(query, asked.start, asked.goals,
                                    {.clearance = kClearance,
                                     .cost = cost,
                                     .planner = RoutePlanner::improving,
                                     .rounds = 2,
                                     .least_within = 0.0});
      REQUIRE(route);
      CHECK(route->cost == Approx(CostMeter(query, cost, kClearance).of(route->waypoints)));
      return CostMeter(query, {}, kClearance).parts_of(route->waypoints);
    };
    const auto add = [](CostParts& sum, const CostParts& one) {
      sum.travel += one.travel;
      sum.tool += one.tool;
      sum.near += one.near;
    };
    add(plain, parts({}));
    add(less_tool, parts({.tool = 20.0}));
    add(further, parts({.near = 20.0}));
  }
  CHECK(less_tool.tool < (kSanitized ? 1.0 : 0.95) * plain.tool);  // of few, chance decides
  CHECK(further.near < 0.8 * plain.near);
  CHECK(plain.travel < 1.02 * less_tool.travel);  // chance is in it
  CHECK(plain.travel < 1.02 * further.travel);
}
