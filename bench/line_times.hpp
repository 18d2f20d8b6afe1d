// Times of questions about straight lines in a cell, as medians; shared by programs that vary the
// cell.
#pragma once

#include <algorithm>
#include <chrono>
#include <vector>

#include "elbowroom/base/random.hpp"
#include "elbowroom/collision/sweep.hpp"

namespace er::bench {

using Clock = std::chrono::steady_clock;

struct Line {
  Posture from;
  Posture to;
};

struct Lines {
  std::vector<Line> free;
  std::vector<Line> blocked;
};

inline double milliseconds_since(Clock::time_point began) {
  return std::chrono::duration<double, std::milli>(Clock::now() - began).count();
}

/// Random lines of one length (rad, the 2-norm) that begin where the clearance is kept: `count`
/// that keep it and `count` that do not.
inline Lines some_lines(const CellQuery& query, double length, double clearance, std::size_t count,
                        SweepMemory& memory) {
  RandomStream random(23);
  Lines out;
  const Arm& arm = query.arm();
  while (out.free.size() < count || out.blocked.size() < count) {
    Line line{random.between(arm.limits().lower, arm.limits().upper), {}};
    if (!query.is_free(line.from, clearance)) continue;
    const Posture way = random.between(arm.limits().lower, arm.limits().upper) - line.from;
    line.to = line.from + length / way.norm() * way;
    auto& kind = sweep_line(query, line.from, line.to, {.clearance = clearance}, memory).free
                     ? out.free
                     : out.blocked;
    if (kind.size() < count) kind.push_back(line);
  }
  return out;
}

/// Nanoseconds each, the median of several rounds over all of them.
inline double each_of(const std::vector<Line>& lines, double clearance, const CellQuery& query,
                      SweepMemory& memory) {
  std::vector<double> rounds;
  long free = 0;
  for (int round = 0; round < 9; ++round) {
    const auto began = Clock::now();
    for (const Line& line : lines)
      free += sweep_line(query, line.from, line.to,
                         {.clearance = clearance, .measure_overlap = false}, memory)
                      .free
                  ? 1
                  : 0;
    if (free >= 0)
      rounds.push_back(1e6 * milliseconds_since(began) / static_cast<double>(lines.size()));
  }
  std::sort(rounds.begin(), rounds.end());
  return rounds[rounds.size() / 2];
}

}  // namespace er::bench
