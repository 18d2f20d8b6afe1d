// numeric_solves [COUNT]: how long the numeric solver takes from target to posture, restarts
// included, and how many targets it gives up. Targets come from postures within the ranges:
// anywhere, or hard ones (each joint at an end of its range or at zero, now and then anywhere).
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>

#include "elbowroom/base/random.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/reach/side_by_side.hpp"
#include "support/postures.hpp"

namespace {

using namespace er;

constexpr int kMostStarts = 400;

void measure(const char* what, const Arm& arm, double tilt, bool hard, int count) {
  RandomStream random(41);
  std::vector<double> times;
  int given_up = 0;
  for (int i = 0; i < count; ++i) {
    const Posture q = hard ? test::hard_posture(random, arm)
                           : random.between(arm.limits().lower, arm.limits().upper);
    Target target;
    target.require({.holds = AtPlace{.at = tool_pose(arm, arm.tool(""), q), .tilt = tilt}});
    const TargetOnArm on_arm(arm, target);
    const auto began = std::chrono::steady_clock::now();
    const bool met = posture_from_starts(on_arm, kMostStarts).has_value();
    times.push_back(
        std::chrono::duration<double, std::micro>(std::chrono::steady_clock::now() - began)
            .count());
    given_up += met ? 0 : 1;
  }
  std::sort(times.begin(), times.end());
  fmt::print("{:<34} {:<9} median {:7.2f} us, p99 {:8.2f} us, {} of {} given up\n", what,
             hard ? "hard" : "anywhere", times[times.size() / 2], times[times.size() * 99 / 100],
             given_up, count);
}

}  // namespace

int main(int argc, char** argv) {
  const int count = argc > 1 ? std::atoi(argv[1]) : 10000;
  const std::string demo = DEMO_DIR;
  const Cell glaze = load_cell(demo + "/glaze.cell.yaml");
  const Cell bracken = load_cell(demo + "/bracken.cell.yaml");
  const Cell sedge = load_cell(demo + "/sedge.cell.yaml");
  for (const bool hard : {false, true}) {
    measure("six joints (teasel), pose", glaze.arm(""), 0.0, hard, count);
    measure("seven joints (bracken), pose", bracken.arm(""), 0.0, hard, count);
    measure("seven joints, position only", bracken.arm(""), kAnyTilt, hard, count);
    measure("planar three (sedge), pose", sedge.arm(""), 0.0, hard, count);
  }
  return 0;
}
