// Roadmaps: built, asked, taught, repaired, saved.
#include "elbowroom/route/roadmap.hpp"

#include <catch2/catch.hpp>

#include <fstream>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/roadmap_file.hpp"
#include "elbowroom/files/write_file.hpp"
#include "elbowroom/route/route.hpp"
#include "support/clutter.hpp"
#include "support/folder.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

using State = PostureGraph::State;

Roadmap small(const CellQuery& query) {
  return Roadmap::build(query, {.clearance = kClearance, .postures = 150, .neighbours = 8});
}

long count(const Roadmap& roadmap, State state) {
  const auto& lines = roadmap.graph().lines();
  return std::count_if(lines.begin(), lines.end(),
                       [&](const PostureGraph::Line& line) { return line.state == state; });
}

// Some fixtures are put elsewhere.
Cell with_some_moved(const Cell& cell, const Vector3& by) {
  CellDescription description;
  description.arms = cell.arms();
  description.fixtures = cell.fixtures();
  description.contacts = cell.contacts();
  for (std::size_t i = 0; i < 20; ++i) description.fixtures[i].at.position += by;
  return Cell::build(description);
}

}  // namespace

TEST_CASE("the lines of a roadmap are free or blocked as they are said to be") {
  const CellQuery query(clutter_cell(Clutter::mixed), "");
  const Roadmap roadmap = small(query);
  CHECK(count(roadmap, State::unknown) == 0);
  CHECK(count(roadmap, State::free) > 100);
  CHECK(count(roadmap, State::blocked) > 100);
  LineProver prover(query, kClearance);
  for (const PostureGraph::Line& line : roadmap.graph().lines())
    CHECK(prover.is_free(roadmap.graph().posture(line.first),
                         roadmap.graph().posture(line.second)) == (line.state == State::free));
  const Roadmap again = small(query);
  CHECK(again.graph().size() == roadmap.graph().size());
  CHECK(again.text() == roadmap.text());
  const Roadmap other =
      Roadmap::build(query, {.clearance = kClearance, .postures = 150, .neighbours = 8, .seed = 2});
  CHECK(other.graph().posture(5) != roadmap.graph().posture(5));
}

TEST_CASE("routes along a roadmap are proved, and what it did not know it learns") {
  const CellQuery query(clutter_cell(Clutter::rack), "");
  Roadmap roadmap = small(query);
  int first = 0;
  int second = 0;
  const auto questions = clutter_questions(query, Clutter::rack, 12, kClearance, 6);
  for (int* found : {&first, &second})
    for (const RouteQuestion& question : questions) {
      const auto route =
          find_route(query, question.start, question.goals,
                     {.clearance = kClearance, .roadmap = &roadmap, .least_within = 0.0});
      REQUIRE(route);
      *found += route->figures.from_roadmap || route->waypoints.size() == 2 ? 1 : 0;
      LineProver prover(query, kClearance);
      for (std::size_t i = 0; i + 1 < route->waypoints.size(); ++i)
        CHECK(prover.is_free(route->waypoints[i], route->waypoints[i + 1]));
      CHECK(route->waypoints.front() == question.start);
      CHECK(route->waypoints.back() == question.goals[route->goal]);
    }
  CHECK(first < second);
  CHECK(second == static_cast<int>(questions.size()));
}

TEST_CASE("a roadmap that says a blocked line is free does not make a route along it") {
  const CellQuery query(clutter_cell(Clutter::mixed), "");
  const Roadmap good = small(query);
  std::vector<Posture> postures;
  for (int i = 0; i < good.graph().size(); ++i) postures.push_back(good.graph().posture(i));
  std::vector<PostureGraph::Line> lines = good.graph().lines();
  for (PostureGraph::Line& line : lines) line.state = State::free;
  Roadmap liar(kClearance, postures, lines);
  for (const RouteQuestion& question :
       clutter_questions(query, Clutter::mixed, 12, kClearance, 8)) {
    const auto route = find_route(query, question.start, question.goals,
                                  {.clearance = kClearance, .roadmap = &liar, .least_within = 0.0});
    REQUIRE(route);
    LineProver prover(query, kClearance);
    for (std::size_t i = 0; i + 1 < route->waypoints.size(); ++i)
      CHECK(prover.is_free(route->waypoints[i], route->waypoints[i + 1]));
  }
}

TEST_CASE("after a fixture has moved, a roadmap is repaired line by line") {
  const Cell before = clutter_cell(Clutter::mixed);
  const CellQuery old_query(before, "");
  Roadmap roadmap = small(old_query);
  const std::vector<PostureGraph::Line> old_lines = roadmap.graph().lines();
  const CellQuery query(with_some_moved(before, {0.15, 0.1, 0.1}), "");
  const RoadmapRepair repair = roadmap.repair(query, kClearance);
  int stand = 0;
  int lost = 0;
  int gained = 0;
  LineProver prover(query, kClearance);
  for (const PostureGraph::Line& line : old_lines) {
    const bool is =
        prover.is_free(roadmap.graph().posture(line.first), roadmap.graph().posture(line.second));
    const bool was = line.state == State::free;
    stand += was && is ? 1 : 0;
    lost += was && !is ? 1 : 0;
    gained += !was && is ? 1 : 0;
  }
  CHECK(repair.stand == stand);
  CHECK(repair.lost == lost);
  CHECK(repair.gained == gained);
  CHECK(stand > 0);
  CHECK(lost + gained > 0);
  CHECK_THAT(repair.text(), Contains(std::to_string(stand) + " lines still free"));
  const RoadmapRepair stricter = roadmap.repair(query, 0.03);
  CHECK(stricter.gained == 0);
  CHECK(stricter.lost > 0);
  CHECK(roadmap.clearance() == 0.03);
}

TEST_CASE("a roadmap for something else is refused, and an improving search may beat it") {
  const CellQuery query(clutter_cell(Clutter::rack), "");
  Roadmap roadmap = small(query);
  const auto questions = clutter_questions(query, Clutter::rack, 8, kClearance, 6);
  const auto ask = [&](const RouteQuestion& question, RouteOptions options) {
    options.roadmap = &roadmap;
    options.least_within = 0.0;
    return find_route(query, question.start, question.goals, options);
  };
  CHECK_THROWS_WITH(ask({questions[0].start, {-questions[0].start}}, {.clearance = 0.001}),
                    Contains("the roadmap keeps 5.0 mm, the question 1.0 mm"));
  Roadmap other(kClearance, {Posture::Zero(3)}, {});
  CHECK_THROWS_WITH(find_route(query, questions[0].start, {-questions[0].start},
                               {.clearance = kClearance, .roadmap = &other}),
                    Contains("3 joints"));
  CHECK_THROWS_WITH(Roadmap::build(query, {.clearance = -0.001}), Contains("zero or more"));
  int beaten = 0;
  for (const RouteQuestion& question : questions) {
    const auto along = ask(question, {.clearance = kClearance});
    const auto improved =
        ask(question, {.clearance = kClearance, .planner = RoutePlanner::improving, .rounds = 3});
    REQUIRE(along);
    REQUIRE(improved);
    CHECK(improved->cost <= along->cost * (1.0 + 1e-9));
    beaten += along->figures.from_roadmap && !improved->figures.from_roadmap ? 1 : 0;
  }
  CHECK(beaten > 0);
}

TEST_CASE("roadmaps go to a file and back, to the last bit") {
  const Folder folder;
  const CellQuery query(clutter_cell(Clutter::posts), "");
  const Roadmap roadmap = small(query);
  const auto path = folder / "way.json";
  write_file(
      path,
      roadmap_json(
          {.version = "1", .instruction_set = "plain", .arm = "a", .cell = "c", .cell_digest = "d"},
          roadmap));
  const SavedRoadmap saved = load_roadmap(path);
  CHECK(saved.from.arm == "a");
  CHECK(saved.from.cell_digest == "d");
  const Roadmap back = saved.roadmap();
  CHECK(back.clearance() == roadmap.clearance());
  REQUIRE(back.graph().size() == roadmap.graph().size());
  for (int i = 0; i < back.graph().size(); ++i)
    CHECK(back.graph().posture(i) == roadmap.graph().posture(i));
  REQUIRE(back.graph().lines().size() == roadmap.graph().lines().size());
  for (std::size_t i = 0; i < back.graph().lines().size(); ++i) {
    CHECK(back.graph().lines()[i].first == roadmap.graph().lines()[i].first);
    CHECK(back.graph().lines()[i].second == roadmap.graph().lines()[i].second);
    CHECK(back.graph().lines()[i].state == roadmap.graph().lines()[i].state);
  }
}

TEST_CASE("files that are no roadmaps") {
  const Folder folder;
  const auto path = folder / "bad.json";
  const auto load = [&](const std::string& text) {
    write_file(path, text);
    return load_roadmap(path);
  };
  const std::string head =
      R"({"elbowroom": "roadmap/1", "version": "1", "instruction_set": "x", "arm": "a",
          "cell": {"name": "c", "digest": "d"}, "clearance": 0.005, )";
  CHECK(load(head + R"("postures": [[0, 1], [1, 0]], "lines": [[0, 1, 1]]})").lines.size() == 1);
  CHECK_THROWS_WITH(load("{\n  oops"), Contains("no whole JSON"));
  CHECK_THROWS_WITH(load(R"({"elbowroom": "route/1"})"), Contains("is no saved roadmap"));
  CHECK_THROWS_WITH(load(head + R"("lines": []})"), Contains("'postures' is missing"));
  CHECK_THROWS_WITH(load(head + R"("postures": [], "lines": []})"), Contains("'postures'"));
  CHECK_THROWS_WITH(load(head + R"("postures": [[0, 1], [1]], "lines": []})"),
                    Contains("'postures[1]'"));
  CHECK_THROWS_WITH(load(head + R"("postures": [[0, "x"]], "lines": []})"),
                    Contains("'postures[0]'"));
  CHECK_THROWS_WITH(load(head + R"("postures": [[0]], "lines": [[0, 7, 1]]})"),
                    Contains("'lines[0]'"));
  CHECK_THROWS_WITH(load(head + R"("postures": [[0]], "lines": [[0]]})"), Contains("'lines[0]'"));
}
