// hand_steps [RUNS]: how long a step of steering takes, and how far off its course the tool gets,
// under hands that change their minds up to ten times a second, at several speeds.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>

#include "elbowroom/base/random.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/follow/steering.hpp"

namespace {

using namespace er;

constexpr int kCommands = 12;

Vector3 any_direction(RandomStream& random) {
  const auto any = [&] { return random.uniform(-1.0, 1.0); };
  const Vector3 v(any(), any(), any());
  return v.normalized();
}

void measure(const CellQuery& query, double speed, int runs) {
  const Arm& arm = query.arm();
  const Tool& tool = arm.tool("");
  RandomStream random(7);
  std::vector<double> times;
  double off = 0.0, share = 0.0;
  for (int run = 0; run < runs; ++run) {
    Steering steering(query, tool, arm.stance("home"), {.clearance = 0.002});
    for (int i = 0; i < kCommands; ++i) {
      Twist command{speed * any_direction(random), {0, 0, 0}};
      if (random.index(3) == 0) command.turning = 3.0 * speed * any_direction(random);
      for (int tick = 100 * (1 + random.index(8)); tick > 0; --tick) {
        const auto begin = std::chrono::steady_clock::now();
        steering.step(command);
        const std::chrono::duration<double, std::micro> took =
            std::chrono::steady_clock::now() - begin;
        times.push_back(took.count());
        off = std::max(off, (steering.tip().position - steering.meant().position).norm());
        share += steering.share();
      }
    }
  }
  std::sort(times.begin(), times.end());
  const auto at = [&](double part) {
    return times[static_cast<std::size_t>(part * static_cast<double>(times.size() - 1))];
  };
  fmt::print(
      "{:8} {:5.0f} mm/s: median {:4.0f} us, p99 {:5.0f} us, p99.9 {:5.0f} us, worst {:5.0f} us of "
      "{} steps; off at most {:.4f} mm; {:.0f} % of the commands\n",
      arm.name(), 1e3 * speed, at(0.5), at(0.99), at(0.999), at(1.0), times.size(), 1e3 * off,
      100.0 * share / static_cast<double>(times.size()));
}

}  // namespace

int main(int argc, char** argv) {
  const int runs = argc > 1 ? std::atoi(argv[1]) : 10;
  for (const char* file : {"/glaze.cell.yaml", "/bracken.cell.yaml"}) {
    const Cell cell = load_cell(std::string(DEMO_DIR) + file);
    const CellQuery query(cell, cell.arms().front().name());
    for (const double speed : {0.1, 0.25, 0.5, 1.0}) measure(query, speed, runs);
  }
  return 0;
}
