// The search through layers, against looking at every combination.
#include "elbowroom/routine/way_search.hpp"

#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <limits>
#include <map>

#include "elbowroom/base/random.hpp"

using namespace er;

namespace {

// A few layers with moves whose true costs are the least times something, or that cannot be done.
struct Maze {
  std::vector<int> states{1};
  std::vector<std::vector<LayerMove>> moves;
  std::vector<std::vector<double>> costs;  // infinite: cannot be done

  Maze(RandomStream& random, int layers, double share_done) {
    for (int layer = 0; layer < layers; ++layer) {
      states.push_back(1 + static_cast<int>(random.uniform(0.0, 5.0)));
      moves.emplace_back();
      costs.emplace_back();
      for (int a = 0; a < states[states.size() - 2]; ++a)
        for (int b = 0; b < states.back(); ++b) {
          if (random.uniform(0.0, 1.0) < 0.2) continue;
          const double least = random.uniform(0.1, 1.0);
          moves.back().push_back({a, b, least, b % 3});
          costs.back().push_back(random.uniform(0.0, 1.0) < share_done
                                     ? least * random.uniform(1.0, 2.0)
                                     : std::numeric_limits<double>::infinity());
        }
    }
  }

  // Of all combinations that end in `end` (any for -1).
  [[nodiscard]] double cheapest(int end = -1) const {
    std::vector<double> best{0.0};
    for (std::size_t layer = 0; layer < moves.size(); ++layer) {
      std::vector<double> next(static_cast<std::size_t>(states[layer + 1]),
                               std::numeric_limits<double>::infinity());
      for (std::size_t i = 0; i < moves[layer].size(); ++i) {
        double& there = next[static_cast<std::size_t>(moves[layer][i].to)];
        there =
            std::min(there, best[static_cast<std::size_t>(moves[layer][i].from)] + costs[layer][i]);
      }
      best = next;
    }
    if (end >= 0) return best[static_cast<std::size_t>(end)];
    return *std::min_element(best.begin(), best.end());
  }

  WaySearch::Look look(std::map<std::pair<int, int>, int>& looks) const {
    return [&, this](int layer, int move) -> std::optional<WaySearch::Found> {
      const double cost = costs[static_cast<std::size_t>(layer)][static_cast<std::size_t>(move)];
      const double least =
          moves[static_cast<std::size_t>(layer)][static_cast<std::size_t>(move)].least;
      // Every other move takes two looks.
      if (++looks[{layer, move}] == 1 && move % 2 == 0 && cost > least && std::isfinite(cost))
        return WaySearch::Found{least, false};
      if (std::isinf(cost)) return std::nullopt;
      return WaySearch::Found{cost};
    };
  }
};

}  // namespace

TEST_CASE("a way is found whenever there is one, and costs what its moves cost") {
  RandomStream random(3);
  int found = 0;
  int none = 0;
  for (int round = 0; round < 400; ++round) {
    const Maze maze(random, 5, 0.6);
    std::map<std::pair<int, int>, int> looks;
    WaySearch search(maze.states, maze.moves);
    const auto way = search.find(maze.look(looks), {.worthwhile = 0.0, .most_looks_after = 1000});
    const double truth = maze.cheapest();
    REQUIRE(way.has_value() == std::isfinite(truth));
    for (const auto& [move, count] : looks) CHECK(count <= 2);
    if (!way) {
      ++none;
      const std::vector<bool> ends = search.within_reach(5);
      CHECK(std::none_of(ends.begin(), ends.end(), [](bool there) { return there; }));
      continue;
    }
    ++found;
    double sum = 0.0;
    int state = 0;
    for (std::size_t layer = 0; layer < 5; ++layer) {
      const auto at = static_cast<std::size_t>(way->moves[layer]);
      REQUIRE(maze.moves[layer][at].from == state);
      state = maze.moves[layer][at].to;
      sum += maze.costs[layer][at];
    }
    CHECK(way->end == state);
    CHECK(way->cost == Approx(sum));
    CHECK(sum >= truth - 1e-12);
  }
  CHECK(found > 100);
  CHECK(none > 50);
}

TEST_CASE("where every move costs its least, what is found is the cheapest there is") {
  RandomStream random(4);
  for (int round = 0; round < 200; ++round) {
    Maze maze(random, 4, 0.7);
    for (std::size_t layer = 0; layer < maze.moves.size(); ++layer)
      for (std::size_t i = 0; i < maze.moves[layer].size(); ++i)
        if (std::isfinite(maze.costs[layer][i])) maze.costs[layer][i] = maze.moves[layer][i].least;
    std::map<std::pair<int, int>, int> looks;
    WaySearch search(maze.states, maze.moves);
    const auto way = search.find(maze.look(looks), {.worthwhile = 0.0});
    const double truth = maze.cheapest();
    REQUIRE(way.has_value() == std::isfinite(truth));
    if (way) CHECK(way->cost == Approx(truth));
  }
}

TEST_CASE("fewer moves are looked at than there are, and an end can be left out") {
  RandomStream random(5);
  long looked = 0;
  long there = 0;
  for (int round = 0; round < 100; ++round) {
    const Maze maze(random, 6, 0.95);
    std::map<std::pair<int, int>, int> looks;
    WaySearch search(maze.states, maze.moves);
    const auto way = search.find(maze.look(looks));
    if (!way) continue;
    looked += search.looks();
    for (const auto& layer : maze.moves) there += static_cast<long>(layer.size());
    search.forbid_end(way->end);
    const auto other = search.find(maze.look(looks), {.worthwhile = 0.0, .most_looks_after = 1000});
    double truth = std::numeric_limits<double>::infinity();
    for (int end = 0; end < maze.states.back(); ++end)
      if (end != way->end) truth = std::min(truth, maze.cheapest(end));
    REQUIRE(other.has_value() == std::isfinite(truth));
    if (other) CHECK(other->end != way->end);
  }
  CHECK(looked < there / 2);
}
