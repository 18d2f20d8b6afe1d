// Kinematics written out as code for one arm (convert --to cpp), beside the library's own.
#include <benchmark/benchmark.h>

#include "elbowroom/base/random.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
//
#include "bracken_kinematics.hpp"
#include "teasel_kinematics.hpp"

namespace er {
namespace {

// Postures of one arm, one after the other.
struct Postures {
  explicit Postures(const char* file) : cell(load_cell(file)), arm(cell.arms().front()) {
    RandomStream random(7);
    for (int count = 0; count < 64; ++count)
      all.push_back(random.between(arm.search_lower(), arm.search_upper()));
  }
  const Posture& next() { return all[i++ % all.size()]; }

  Cell cell;
  Arm arm;
  std::vector<Posture> all;
  std::size_t i = 0;
};

void library(benchmark::State& state, const char* file) {
  Postures postures(file);
  const Tool tool = postures.arm.end_tool();
  std::vector<Pose> poses(postures.arm.links().size());
  Jacobian out;
  for (auto _ : state) {
    link_poses(postures.arm, postures.next(), poses);
    benchmark::DoNotOptimize(frame_jacobian(postures.arm, poses, tool.link_index, tool.tip, out));
    benchmark::ClobberMemory();
  }
}

#define WRITTEN_OUT(cell, arm, tool)                                                    \
  void written_##arm##_everything(benchmark::State& state) {                            \
    Postures postures(DEMO_DIR "/" #cell ".cell.yaml");                                 \
    arm##_kinematics::Frame frames[arm##_kinematics::kLinks];                           \
    arm##_kinematics::Frame tip;                                                        \
    double jacobian[6 * arm##_kinematics::kJoints];                                     \
    for (auto _ : state) {                                                              \
      arm##_kinematics::tool##_jacobian(postures.next().data(), frames, tip, jacobian); \
      benchmark::DoNotOptimize(frames);                                                 \
      benchmark::DoNotOptimize(tip);                                                    \
      benchmark::DoNotOptimize(jacobian);                                               \
      benchmark::ClobberMemory();                                                       \
    }                                                                                   \
  }                                                                                     \
  BENCHMARK(written_##arm##_everything);                                                \
  void written_##arm##_tool(benchmark::State& state) {                                  \
    Postures postures(DEMO_DIR "/" #cell ".cell.yaml");                                 \
    arm##_kinematics::Frame tip;                                                        \
    for (auto _ : state) {                                                              \
      arm##_kinematics::tool##_frame(postures.next().data(), tip);                      \
      benchmark::DoNotOptimize(tip);                                                    \
      benchmark::ClobberMemory();                                                       \
    }                                                                                   \
  }                                                                                     \
  BENCHMARK(written_##arm##_tool);

BENCHMARK_CAPTURE(library, six_joints, DEMO_DIR "/glaze.cell.yaml");
BENCHMARK_CAPTURE(library, seven_joints, DEMO_DIR "/bracken.cell.yaml");
WRITTEN_OUT(glaze, teasel, grip)
WRITTEN_OUT(bracken, bracken, peel_end)

}  // namespace
}  // namespace er

BENCHMARK_MAIN();
