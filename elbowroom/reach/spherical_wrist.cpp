#include "elbowroom/reach/spherical_wrist.hpp"

#include <utility>

#include "elbowroom/reach/axis_geometry.hpp"

namespace er {
namespace {

ThreeScrews first_three(const ScrewChain& chain) { return {chain[0], chain[1], chain[2]}; }

}  // namespace

SphericalWrist::SphericalWrist(const ScrewChain& chain, const Vector3& centre, ArmSolver arm)
    : chain_(chain),
      centre_(centre),
      wrist_(chain[3].axis, chain[4].axis, chain[5].axis),
      arm_(std::move(arm)) {}

std::optional<SphericalWrist> SphericalWrist::of(const ScrewChain& chain) {
  const auto turns = [&](int i) { return chain[i].turns; };
  if (chain.size() != 6 || !turns(3) || !turns(4) || !turns(5)) return std::nullopt;
  const auto centre = meeting_point(chain[3], chain[4], chain[5]);
  if (!centre) return std::nullopt;
  const ThreeScrews arm = first_three(chain);
  if (chain.slides() > 0) return SphericalWrist(chain, *centre, SlidingArm(arm, *centre));
  // Three parallel axes, or three through one point, take a point nowhere in particular.
  const bool flat = are_parallel(arm[0], arm[1]) && are_parallel(arm[1], arm[2]);
  if (flat || meeting_point(arm[0], arm[1], arm[2])) return std::nullopt;
  if (are_parallel(arm[1], arm[2]))
    return SphericalWrist(chain, *centre, ParallelElbow(arm, *centre));
  return SphericalWrist(chain, *centre, ThreeTurnSolver(arm, *centre));
}

std::string SphericalWrist::path() const {
  if (const auto* three = std::get_if<ThreeTurnSolver>(&arm_)) return three->path();
  if (const auto* sliding = std::get_if<SlidingArm>(&arm_)) return sliding->path();
  return "axes 2 and 3 parallel";
}

void SphericalWrist::solve(const Pose& tip, ClosedSolutions& out) const {
  out.count = 0;
  const Pose moved = chain_.motion_to(tip);
  WristBranches lanes;
  if (const auto* elbow = std::get_if<ParallelElbow>(&arm_)) {
    wrist_branches(*elbow, wrist_, moved, lanes);
  } else {
    ThreeJoints ways;
    const Vector3 goal = moved * centre_;
    if (const auto* sliding = std::get_if<SlidingArm>(&arm_))
      sliding->solve(goal, ways);
    else
      std::get<ThreeTurnSolver>(arm_).solve(goal, ways);
    wrist_branches(first_three(chain_), ways, wrist_, moved, lanes);
    out.complete = ways.sure;
  }
  for (int lane = 0; lane < WristBranches::kMost; ++lane) {
    // Where the arm has a family of ways, another of them may suit the wrist.
    if (lanes.valid[lane] < 0.0 && lanes.free_joint[lane] >= 0.0) out.complete = false;
    if (lanes.valid[lane] <= 0.0) continue;
    ClosedSolution& one = out.all[static_cast<std::size_t>(out.count++)];
    for (std::size_t j = 0; j < 6; ++j) one.values[j] = lanes.value[j][lane];
    one.free_joint = static_cast<int>(lanes.free_joint[lane]);
  }
}

}  // namespace er
