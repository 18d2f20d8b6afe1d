// Speeds of the core on the demo cell. Run it with --benchmark_repetitions=9 and read the medians.
#include <benchmark/benchmark.h>

#include "elbowroom/base/random.hpp"
#include "elbowroom/draw/render.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/routine_file.hpp"
#include "elbowroom/files/target_file.hpp"
#include "elbowroom/follow/follow.hpp"
#include "elbowroom/reach/closed_form.hpp"
#include "elbowroom/reach/seven_centres.hpp"
#include "elbowroom/rehearse/rehearse.hpp"
#include "elbowroom/survey/survey.hpp"
#include "support/chains.hpp"

namespace {

using namespace er;

const CellQuery& demo() {
  static const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  return query;
}

const Arm& bracken() {
  static const Cell cell = load_cell(DEMO_DIR "/bracken.cell.yaml");
  return cell.arm("bracken");
}

std::vector<Posture> postures(int count) {
  RandomStream random(1);
  std::vector<Posture> all;
  const Limits& limits = demo().arm().limits();
  for (int i = 0; i < count; ++i) all.push_back(random.between(limits.lower, limits.upper));
  return all;
}

void load(benchmark::State& state) {
  for (auto _ : state) benchmark::DoNotOptimize(load_cell(DEMO_DIR "/glaze.cell.yaml"));
}
BENCHMARK(load)->Unit(benchmark::kMillisecond);

void forward_all_links(benchmark::State& state) {
  const auto all = postures(256);
  std::vector<Pose> poses(demo().arm().links().size());
  std::size_t i = 0;
  for (auto _ : state) {
    link_poses(demo().arm(), all[i++ % all.size()], poses);
    benchmark::DoNotOptimize(poses.data());
  }
}
BENCHMARK(forward_all_links)->Unit(benchmark::kNanosecond);

void jacobian(benchmark::State& state) {
  const auto all = postures(256);
  const Tool& tool = demo().arm().tool("grip");
  Jacobian out;
  std::size_t i = 0;
  for (auto _ : state) {
    benchmark::DoNotOptimize(tool_jacobian(demo().arm(), tool, all[i++ % all.size()], out));
    benchmark::DoNotOptimize(out.data());
  }
}
BENCHMARK(jacobian)->Unit(benchmark::kNanosecond);

// All links' poses, and the Jacobian at the tool from them.
void links_and_jacobian_seven(benchmark::State& state) {
  const Arm& arm = bracken();
  const Tool& tool = arm.tool("");
  RandomStream random(1);
  std::vector<Posture> all;
  for (int i = 0; i < 256; ++i)
    all.push_back(random.between(arm.limits().lower, arm.limits().upper));
  std::vector<Pose> poses(arm.links().size());
  Jacobian out;
  std::size_t i = 0;
  for (auto _ : state) {
    link_poses(arm, all[i++ % all.size()], poses);
    benchmark::DoNotOptimize(frame_jacobian(arm, poses, tool.link_index, tool.tip, out));
    benchmark::DoNotOptimize(out.data());
  }
}
BENCHMARK(links_and_jacobian_seven)->Unit(benchmark::kNanosecond);

// One step of following: box of the joints, Jacobian, rows, the largest scale.
void following_step(benchmark::State& state, const Arm& arm, const Tool& tool) {
  RandomStream random(5);
  std::vector<Posture> all;
  for (int i = 0; i < 256; ++i)
    all.push_back(random.between(0.5 * arm.limits().lower, 0.5 * arm.limits().upper));
  TrackedTool tracked(arm, tool, {});
  StepQuestion question;
  question.unit = velocity_units(arm.limits());
  question.wish = Posture::Zero(arm.dof());
  const Posture before = Posture::Zero(arm.dof());
  JointBox box;
  StepAnswer answer;
  std::size_t i = 0;
  for (auto _ : state) {
    const Posture& q = all[i++ % all.size()];
    const Pose now = tracked.tip(q);
    joint_box(arm.limits(), q, before, 0.001, box);
    question.lower = box.lower;
    question.upper = box.upper;
    tracked.rows(q, now, before, 0.001, now, {now.rotation, now.position + Vector3(1e-4, 2e-4, 0)},
                 0.001, 20.0, question);
    velocity_step(question, FollowMode::limited, answer);
    benchmark::DoNotOptimize(answer.scale);
  }
}

void following_step_six(benchmark::State& state) {
  following_step(state, demo().arm(), demo().arm().tool("grip"));
}
BENCHMARK(following_step_six)->Unit(benchmark::kMicrosecond);

void following_step_seven(benchmark::State& state) {
  const Arm& arm = bracken();
  following_step(state, arm, arm.tool(""));
}
BENCHMARK(following_step_seven)->Unit(benchmark::kMicrosecond);

void box_cylinder_distance(benchmark::State& state) {
  RandomStream random(2);
  std::vector<Pose> poses;
  for (int i = 0; i < 256; ++i)
    poses.push_back(
        {rotation_from_rpy(random.uniform(-3, 3), random.uniform(-1, 1), random.uniform(-3, 3)),
         {random.uniform(0.2, 0.5), random.uniform(-0.5, 0.5), random.uniform(-0.5, 0.5)}});
  const Shape box = Box{{0.2, 0.1, 0.3}};
  const Shape cylinder = Cylinder{0.05, 0.2};
  std::size_t i = 0;
  for (auto _ : state)
    benchmark::DoNotOptimize(distance(box, {}, cylinder, poses[i++ % poses.size()]));
}
BENCHMARK(box_cylinder_distance)->Unit(benchmark::kNanosecond);

template <class Solve>
void all_postures(benchmark::State& state, const ScrewChain& chain, Solve solve) {
  RandomStream random(3);
  std::vector<Pose> tips;
  for (int i = 0; i < 256; ++i) {
    tips.push_back(chain.at(test::random_angles(random).data()));
  }
  ClosedSolutions all;
  std::size_t i = 0;
  for (auto _ : state) {
    solve(tips[i++ % tips.size()], all);
    benchmark::DoNotOptimize(all.count);
  }
}

void closed_spherical_wrist(benchmark::State& state) {
  const ScrewChain chain = *screw_chain(demo().arm(), demo().arm().tool("grip"));
  const auto form = SphericalWrist::of(chain);
  all_postures(state, chain, [&](const Pose& tip, ClosedSolutions& all) { form->solve(tip, all); });
}
BENCHMARK(closed_spherical_wrist)->Unit(benchmark::kMicrosecond);

void closed_spherical_wrist_polished(benchmark::State& state) {
  const ScrewChain chain = *screw_chain(demo().arm(), demo().arm().tool("grip"));
  const auto form = ClosedForm::of(chain);
  all_postures(state, chain, [&](const Pose& tip, ClosedSolutions& all) { form->solve(tip, all); });
}
BENCHMARK(closed_spherical_wrist_polished)->Unit(benchmark::kMicrosecond);

void closed_three_parallel(benchmark::State& state) {
  const ScrewChain chain = test::parallel_chain();
  const auto form = ThreeParallel::of(chain);
  all_postures(state, chain, [&](const Pose& tip, ClosedSolutions& all) { form->solve(tip, all); });
}
BENCHMARK(closed_three_parallel)->Unit(benchmark::kMicrosecond);

void closed_general_six(benchmark::State& state) {
  RandomStream random(4);
  const ScrewChain chain = test::random_chain(random, 6);
  const auto form = GeneralSix::of(chain);
  all_postures(state, chain, [&](const Pose& tip, ClosedSolutions& all) { form->solve(tip, all); });
}
BENCHMARK(closed_general_six)->Unit(benchmark::kMicrosecond);

// R. Manseur and K. Doty, "A robot manipulator with 16 real inverse kinematic solution sets", 1989.
void closed_general_six_sixteen(benchmark::State& state) {
  const ScrewChain chain = test::sixteen_chain();
  const auto form = GeneralSix::of(chain);
  const Pose tip = test::sixteen_tip();
  ClosedSolutions all;
  for (auto _ : state) {
    form->solve(tip, all);
    benchmark::DoNotOptimize(all.count);
  }
  state.counters["postures"] = all.count;
}
BENCHMARK(closed_general_six_sixteen)->Unit(benchmark::kMicrosecond);

void closed_seven_centres(benchmark::State& state) {
  const Arm& arm = bracken();
  const ScrewChain chain = *screw_chain(arm, arm.tools().front());
  const auto form = SevenCentres::of(chain);
  all_postures(state, chain,
               [&](const Pose& tip, ClosedSolutions& all) { form->solve(tip, 0.3, all); });
}
BENCHMARK(closed_seven_centres)->Unit(benchmark::kMicrosecond);

void sweep_of_64_elbow_angles(benchmark::State& state) {
  const Arm& arm = bracken();
  const ScrewChain chain = *screw_chain(arm, arm.tools().front());
  const auto form = SevenCentres::of(chain);
  std::array<double, 64> angles;
  for (std::size_t i = 0; i < angles.size(); ++i) angles[i] = -3.1 + 0.1 * static_cast<double>(i);
  SevenSweep out;
  all_postures(state, chain, [&](const Pose& tip, ClosedSolutions& all) {
    form->sweep(tip, angles, out);
    all.count = out.count();
  });
}
BENCHMARK(sweep_of_64_elbow_angles)->Unit(benchmark::kMicrosecond);

void eight_jacobians_at_once(benchmark::State& state) {
  const Arm& arm = bracken();
  const LaneChain chain = *lane_chain(arm, arm.tool("").link_index, arm.tool("").tip);
  RandomStream random(6);
  double values[LaneChain::kMostJoints][LaneJacobians::kPostures];
  for (auto& row : values)
    for (double& value : row) value = random.uniform(-2, 2);
  LaneJacobians out;
  for (auto _ : state) {
    lane_jacobians(chain, values, out);
    benchmark::DoNotOptimize(out.pose.data());
    values[0][0] += 1e-3;
  }
}
BENCHMARK(eight_jacobians_at_once)->Unit(benchmark::kNanosecond);

void posture_is_free(benchmark::State& state) {
  const auto all = postures(256);
  PartPoses parts(demo());
  std::size_t i = 0;
  for (auto _ : state)
    benchmark::DoNotOptimize(demo().is_free(all[i++ % all.size()], 0.005, parts));
}
BENCHMARK(posture_is_free)->Unit(benchmark::kMicrosecond);

void nearest_pair(benchmark::State& state) {
  const auto all = postures(256);
  PartPoses parts(demo());
  std::size_t i = 0;
  for (auto _ : state) benchmark::DoNotOptimize(demo().nearest(all[i++ % all.size()], parts));
}
BENCHMARK(nearest_pair)->Unit(benchmark::kMicrosecond);

Target upper_shelf() {
  static const std::vector<Target> targets =
      load_targets(DEMO_DIR "/kiln.targets.yaml", demo().cell());
  return targets[1];
}

void reach_on_the_shelf(benchmark::State& state) {
  const Target target = upper_shelf();
  for (auto _ : state) benchmark::DoNotOptimize(reach(demo(), target, {.clearance = 0.005}));
}
BENCHMARK(reach_on_the_shelf)->Unit(benchmark::kMillisecond);

void route_board_to_bucket(benchmark::State& state) {
  const Posture from = demo().arm().stance("over_board");
  const Posture to = demo().arm().stance("over_bucket");
  for (auto _ : state) benchmark::DoNotOptimize(find_route(demo(), from, {to}));
}
BENCHMARK(route_board_to_bucket)->Unit(benchmark::kMillisecond);

void plan_and_rehearse_dip(benchmark::State& state) {
  const Routine routine = load_routine(DEMO_DIR "/dip.routine.yaml", demo().cell());
  for (auto _ : state) {
    const auto planned = plan_routine(demo(), routine);
    benchmark::DoNotOptimize(rehearse(demo().cell(), planned.value()));
  }
}
BENCHMARK(plan_and_rehearse_dip)->Unit(benchmark::kMillisecond)->Iterations(3);

void survey_kiln(benchmark::State& state) {
  const auto targets = load_targets(DEMO_DIR "/kiln.targets.yaml", demo().cell());
  for (auto _ : state) benchmark::DoNotOptimize(survey(demo(), targets));
}
BENCHMARK(survey_kiln)->Unit(benchmark::kMillisecond)->Iterations(3)->UseRealTime();

void picture_1280x800(benchmark::State& state) {
  const Scene scene(demo().cell(), {demo().arm().stance("home")});
  for (auto _ : state) benchmark::DoNotOptimize(render(scene, best_view(scene)));
}
BENCHMARK(picture_1280x800)->Unit(benchmark::kMillisecond)->Iterations(3)->UseRealTime();

}  // namespace

BENCHMARK_MAIN();
