#include "elbowroom/reach/spherical_wrist.hpp"

#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/subproblems.hpp"

namespace er {
WristTurns wrist_turns(const Vector3& first, const Vector3& second, const Vector3& third,
                       const Matrix3& turn) {
  WristTurns out;
  const Vector3 hand = turn * third;  // the last turn leaves its own axis where it is
  const TwoTurns two = two_turns(first, second, third, hand);
  out.any = two.any;
  for (int i = 0; i < two.count; ++i) {
    const Matrix3 before =
        rotation_about(first, two.first[i]) * rotation_about(second, two.second[i]);
    out.angle[i][0] = two.first[i];
    out.angle[i][1] = two.second[i];
    out.angle[i][2] = turn_of(third, before.transpose() * turn);
  }
  out.count = two.count;
  return out;
}

SphericalWrist::SphericalWrist(const ScrewChain& chain, const Vector3& centre)
    : chain_(chain), centre_(centre), arm_(chain, centre) {}

std::optional<SphericalWrist> SphericalWrist::of(const ScrewChain& chain) {
  if (!chain.is_turning(6)) return std::nullopt;
  const auto centre = meeting_point(chain[3], chain[4], chain[5]);
  // Three parallel axes, or three through one point, take a point nowhere in particular.
  const bool flat = are_parallel(chain[0], chain[1]) && are_parallel(chain[1], chain[2]);
  if (!centre || flat || meeting_point(chain[0], chain[1], chain[2])) return std::nullopt;
  return SphericalWrist(chain, *centre);
}

void SphericalWrist::solve(const Pose& tip, ClosedSolutions& out) const {
  out.count = 0;
  const Pose moved = chain_.motion_to(tip);
  ThreeTurns arms;
  arm_.solve(moved * centre_, arms);
  for (int i = 0; i < arms.count; ++i) {
    const ThreeTurns::Way& way = arms.ways[static_cast<std::size_t>(i)];
    const Matrix3 arm_turn = rotation_about(chain_[0].axis, way.angle[0]) *
                             rotation_about(chain_[1].axis, way.angle[1]) *
                             rotation_about(chain_[2].axis, way.angle[2]);
    const WristTurns wrist = wrist_turns(chain_[3].axis, chain_[4].axis, chain_[5].axis,
                                         arm_turn.transpose() * moved.rotation);
    for (int k = 0; k < wrist.count; ++k) {
      ClosedSolution one;
      for (std::size_t j = 0; j < 3; ++j) {
        one.values[j] = way.angle[j];
        one.values[j + 3] = wrist.angle[k][j];
      }
      one.free_joint = way.free >= 0 ? way.free : wrist.any ? 3 : -1;
      out.add(one);
    }
  }
}

}  // namespace er
