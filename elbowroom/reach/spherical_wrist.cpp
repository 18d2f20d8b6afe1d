#include "elbowroom/reach/spherical_wrist.hpp"

#include "elbowroom/reach/axis_geometry.hpp"

namespace er {
namespace {

std::array<Screw, 3> first_three(const ScrewChain& chain) { return {chain[0], chain[1], chain[2]}; }

std::variant<ParallelElbow, ThreeTurnSolver> arm_of(const ScrewChain& chain,
                                                    const Vector3& centre) {
  if (are_parallel(chain[1], chain[2])) return ParallelElbow(first_three(chain), centre);
  return ThreeTurnSolver(chain, centre);
}

}  // namespace

SphericalWrist::SphericalWrist(const ScrewChain& chain, const Vector3& centre)
    : chain_(chain),
      centre_(centre),
      wrist_(chain[3].axis, chain[4].axis, chain[5].axis),
      arm_(arm_of(chain, centre)) {}

std::optional<SphericalWrist> SphericalWrist::of(const ScrewChain& chain) {
  if (!chain.is_turning(6)) return std::nullopt;
  const auto centre = meeting_point(chain[3], chain[4], chain[5]);
  // Three parallel axes, or three through one point, take a point nowhere in particular.
  const bool flat = are_parallel(chain[0], chain[1]) && are_parallel(chain[1], chain[2]);
  if (!centre || flat || meeting_point(chain[0], chain[1], chain[2])) return std::nullopt;
  return SphericalWrist(chain, *centre);
}

const char* SphericalWrist::path() const {
  const auto* arm = std::get_if<ThreeTurnSolver>(&arm_);
  return arm == nullptr ? "axes 2 and 3 parallel" : arm->path();
}

void SphericalWrist::solve(const Pose& tip, ClosedSolutions& out) const {
  out.count = 0;
  const Pose moved = chain_.motion_to(tip);
  WristBranches lanes;
  if (const auto* elbow = std::get_if<ParallelElbow>(&arm_)) {
    wrist_branches(*elbow, wrist_, moved, lanes);
  } else {
    ThreeTurns ways;
    std::get<ThreeTurnSolver>(arm_).solve(moved * centre_, ways);
    wrist_branches(first_three(chain_), ways, wrist_, moved, lanes);
    out.complete = ways.sure;
  }
  for (int lane = 0; lane < WristBranches::kMost; ++lane) {
    // Where the arm has a family of ways, another of them may suit the wrist.
    if (lanes.valid[lane] < 0.0 && lanes.free_joint[lane] >= 0.0) out.complete = false;
    if (lanes.valid[lane] <= 0.0) continue;
    ClosedSolution& one = out.all[static_cast<std::size_t>(out.count++)];
    for (std::size_t j = 0; j < 6; ++j) one.values[j] = lanes.angle[j][lane];
    one.free_joint = static_cast<int>(lanes.free_joint[lane]);
  }
}

}  // namespace er
