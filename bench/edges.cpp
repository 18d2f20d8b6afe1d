// edges: what single questions of motion take in five cluttered scenes: proving a straight line of
// 0.8 rad free, finding one blocked. One thread.
#include <fmt/format.h>

#include "line_times.hpp"
#include "support/clutter.hpp"

namespace {

using namespace er;

constexpr double kLength = 0.8;  // rad

void measure(test::Clutter clutter) {
  const CellQuery query(test::clutter_cell(clutter), "");
  const auto began = bench::Clock::now();
  const Covers& covers = query.covers();
  const double making = bench::milliseconds_since(began);
  SweepMemory memory(query);
  const bench::Lines lines = bench::some_lines(query, kLength, test::kClearance, 400, memory);
  fmt::print(
      "{:<20} free line {:7.0f} ns, blocked {:7.0f} ns; {} balls, {} parts, {} pairs, made in "
      "{:.2f} ms\n",
      name_of(clutter), bench::each_of(lines.free, test::kClearance, query, memory),
      bench::each_of(lines.blocked, test::kClearance, query, memory), covers.x.size(),
      covers.parts.size(), query.pairs().self.size(), making);
}

}  // namespace

int main() {
  for (const test::Clutter clutter : test::kAllClutter) measure(clutter);
  return 0;
}
