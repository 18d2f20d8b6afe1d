// routes [QUESTIONS] [SCENE]: how long routes take in five cluttered scenes, with exact shapes,
// certified and tightened, by each planner; one thread.
#include <fmt/format.h>
#include <tbb/global_control.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <optional>

#include "elbowroom/base/quantile.hpp"
#include "elbowroom/route/roadmap.hpp"
#include "elbowroom/route/route.hpp"
#include "support/clutter.hpp"

namespace {

using namespace er;
using Clock = std::chrono::steady_clock;

constexpr int kRounds = 5;  // of each question: its time is their median

double microseconds_since(Clock::time_point began) {
  return std::chrono::duration<double, std::micro>(Clock::now() - began).count();
}

void measure(test::Clutter clutter, int count, RouteOptions options, bool on_roadmap) {
  const CellQuery query(test::clutter_cell(clutter), "");
  const auto questions = test::clutter_questions(query, clutter, count, test::kClearance);
  std::optional<Roadmap> roadmap;
  if (on_roadmap) {
    const auto began = Clock::now();
    roadmap = Roadmap::build(query, {.clearance = test::kClearance});
    fmt::print("  built in {:.0f} ms: {}\n", microseconds_since(began) * 1e-3, roadmap->text());
  }
  std::vector<double> times;
  std::vector<double> lengths;
  std::vector<double> lines;
  int straight = 0;
  int failed = 0;
  int from_roadmap = 0;
  for (const test::RouteQuestion& question : questions) {
    std::vector<double> rounds;
    Verdict<Route> route = Reason{};
    for (int round = 0; round < kRounds; ++round) {
      std::optional<Roadmap> as_built = roadmap;  // what it learns would make the next round easy
      options.roadmap = as_built ? &*as_built : nullptr;
      const auto began = Clock::now();
      route = find_route(query, question.start, question.goals, options);
      rounds.push_back(microseconds_since(began));
    }
    times.push_back(quantile(rounds, 0.5));
    if (!route) {
      ++failed;
      continue;
    }
    straight += route->waypoints.size() == 2 ? 1 : 0;
    from_roadmap += route->figures.from_roadmap ? 1 : 0;
    lengths.push_back(route->length);
    lines.push_back(static_cast<double>(route->figures.lines));
  }
  double sum = 0.0;
  for (const double length : lengths) sum += length;
  fmt::print(
      "{:<20} median {:9.1f} us, p95 {:9.1f} us; {} of {} found, {} straight{}; length {:.2f} rad, "
      "mean {:.2f}; {:.0f} lines\n",
      name_of(clutter), quantile(times, 0.5), quantile(times, 0.95), count - failed, count,
      straight, on_roadmap ? fmt::format(", {} from the roadmap", from_roadmap) : "",
      quantile(lengths, 0.5), sum / static_cast<double>(lengths.size()), quantile(lines, 0.5));
}

}  // namespace

int main(int argc, char** argv) {
  const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
  const int count = argc > 1 ? std::atoi(argv[1]) : 100;
  const RouteOptions base{.clearance = test::kClearance, .least_within = 0.0};
  const auto all = [&](const char* title, const RouteOptions& options, bool on_roadmap = false) {
    fmt::print("{}\n", title);
    for (int i = 0; i < 5; ++i)
      if (argc < 3 || std::atoi(argv[2]) == i)
        measure(test::kAllClutter[i], count, options, on_roadmap);
  };
  RouteOptions options = base;
  options.searches = 1;
  all("one search", options);
  all("three that race", base);
  options.searches = 30;
  all("thirty that race", options);
  options = base;
  options.planner = RoutePlanner::improving;
  all("improving", options);
  all("on a roadmap", base, true);
  return 0;
}
