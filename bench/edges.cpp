// edges: what single questions of motion take in five cluttered scenes: proving a straight line of
// 0.8 rad free, finding one blocked, looking at a posture. One thread.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>

#include "elbowroom/base/random.hpp"
#include "elbowroom/collision/sweep.hpp"
#include "support/clutter.hpp"

namespace {

using namespace er;
using Clock = std::chrono::steady_clock;

constexpr double kClearance = 0.005;
constexpr double kLength = 0.8;  // rad, the 2-norm

struct Line {
  Posture from;
  Posture to;
};

// Nanoseconds each, the median of several rounds over all of them.
double each_of(const std::vector<Line>& lines, const CellQuery& query, SweepMemory& memory) {
  std::vector<double> rounds;
  for (int round = 0; round < 9; ++round) {
    int free = 0;
    const auto began = Clock::now();
    for (const Line& line : lines)
      free += sweep_line(query, line.from, line.to,
                         {.clearance = kClearance, .measure_overlap = false}, memory)
                      .free
                  ? 1
                  : 0;
    const double took = std::chrono::duration<double, std::nano>(Clock::now() - began).count();
    if (free >= 0) rounds.push_back(took / static_cast<double>(lines.size()));
  }
  std::sort(rounds.begin(), rounds.end());
  return rounds[rounds.size() / 2];
}

void measure(test::Clutter clutter) {
  const CellQuery query(test::clutter_cell(clutter), "");
  const auto began = Clock::now();
  const Covers& covers = query.covers();
  const double making = std::chrono::duration<double, std::milli>(Clock::now() - began).count();
  SweepMemory memory(query);
  RandomStream random(23);
  std::vector<Line> free;
  std::vector<Line> blocked;
  while (free.size() < 400 || blocked.size() < 400) {
    const Arm& arm = query.arm();
    Line line{random.between(arm.limits().lower, arm.limits().upper), {}};
    if (!query.is_free(line.from, kClearance)) continue;
    const Posture way = random.between(arm.limits().lower, arm.limits().upper) - line.from;
    line.to = line.from + kLength / way.norm() * way;
    auto& kind = sweep_line(query, line.from, line.to, {.clearance = kClearance}, memory).free
                     ? free
                     : blocked;
    if (kind.size() < 400) kind.push_back(line);
  }
  fmt::print(
      "{:<20} free line {:7.0f} ns, blocked {:7.0f} ns; {} balls, {} parts, {} pairs, made in "
      "{:.2f} ms\n",
      name_of(clutter), each_of(free, query, memory), each_of(blocked, query, memory),
      covers.x.size(), covers.parts.size(), query.pairs().self.size(), making);
}

}  // namespace

int main() {
  for (const test::Clutter clutter : test::kAllClutter) measure(clutter);
  return 0;
}
