// routes [QUESTIONS] [SCENE]: how long routes take in five cluttered scenes, with exact shapes,
// certified and tightened; one thread.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>

#include "elbowroom/route/route.hpp"
#include "support/clutter.hpp"

namespace {

using namespace er;
using Clock = std::chrono::steady_clock;

constexpr double kClearance = 0.005;
constexpr int kRounds = 5;  // of each question: its time is their median

double microseconds_since(Clock::time_point began) {
  return std::chrono::duration<double, std::micro>(Clock::now() - began).count();
}

double quantile(std::vector<double> values, double share) {
  std::sort(values.begin(), values.end());
  return values[static_cast<std::size_t>(share * static_cast<double>(values.size() - 1))];
}

void measure(test::Clutter clutter, int count, const RouteOptions& options) {
  const CellQuery query(test::clutter_cell(clutter), "");
  const auto questions = test::clutter_questions(query, clutter, count, kClearance);
  std::vector<double> times;
  std::vector<double> lengths;
  std::vector<double> lines;
  int straight = 0;
  int failed = 0;
  for (const test::RouteQuestion& question : questions) {
    std::vector<double> rounds;
    Verdict<Route> route = Reason{};
    for (int round = 0; round < kRounds; ++round) {
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
    lengths.push_back(route->length);
    lines.push_back(static_cast<double>(route->figures.lines));
  }
  fmt::print(
      "{:<20} median {:9.1f} us, p95 {:9.1f} us; {} of {} found, {} straight; length {:.2f} rad, "
      "{:.0f} lines\n",
      name_of(clutter), quantile(times, 0.5), quantile(times, 0.95), count - failed, count,
      straight, quantile(lengths, 0.5), quantile(lines, 0.5));
}

}  // namespace

int main(int argc, char** argv) {
  const int count = argc > 1 ? std::atoi(argv[1]) : 100;
  for (const int searches : {1, 3}) {
    fmt::print("{} search{}\n", searches, searches == 1 ? "" : "es");
    for (int i = 0; i < 5; ++i)
      if (argc < 3 || std::atoi(argv[2]) == i)
        measure(test::kAllClutter[i], count,
                {.clearance = kClearance, .searches = searches, .least_within = 0.0});
  }
  return 0;
}
