#include "elbowroom/reach/three_parallel.hpp"

#include <algorithm>

#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/subproblems.hpp"
#include "elbowroom/reach/three_turns.hpp"

namespace er {

ThreeParallel::ThreeParallel(const ScrewChain& chain, const Vector3& meet)
    : chain_(chain), meet_(meet) {}

std::optional<ThreeParallel> ThreeParallel::of(const ScrewChain& chain) {
  if (!chain.is_turning(6)) return std::nullopt;
  const auto meet = meeting_point(chain[4], chain[5]);
  const bool parallel = are_parallel(chain[1], chain[2]) && are_parallel(chain[2], chain[3]);
  // A first axis along the three, or a fifth, leaves nothing to tell them apart by.
  if (!meet || !parallel || are_parallel(chain[0], chain[1]) || are_parallel(chain[3], chain[4]))
    return std::nullopt;
  return ThreeParallel(chain, *meet);
}

void ThreeParallel::solve(const Pose& tip, ClosedSolutions& out) const {
  out.count = 0;
  const Pose moved = chain_.motion_to(tip);
  const Vector3& along = chain_[1].axis;
  const Screw& first = chain_[0];
  const TwoAngles firsts = turns_to_height(first.axis, moved * meet_ - first.point, along,
                                           along.dot(meet_ - first.point));
  for (int i = 0; i < firsts.count; ++i) {
    ClosedSolution one;
    one.values[0] = -firsts.angle[i];
    if (firsts.any) one.free_joint = 0;
    const Matrix3 turn = rotation_about(first.axis, one.values[0]);
    // Turned back by joint 6, then by joint 5, the direction of the three is seen from the hand.
    const Vector3 seen = moved.rotation.transpose() * (turn * along);
    const TwoTurns last = two_turns(chain_[5].axis, chain_[4].axis, along, seen);
    for (int k = 0; k < last.count; ++k) {
      one.values[5] = -last.first[k];
      one.values[4] = -last.second[k];
      if (last.any) one.free_joint = 5;
      const int before = out.count;
      solve_plane(moved, one, out);
      // Another turn of what is free may do.
      if (one.free_joint >= 0 && out.count == before) out.complete = false;
    }
    if (firsts.any && last.count == 0) out.complete = false;
  }
}

void ThreeParallel::solve_plane(const Pose& moved, ClosedSolution one, ClosedSolutions& out) const {
  // What joints 2 to 4 have to do together: a motion in their plane.
  const Pose rest = motion_of(chain_[0], one.values[0]).inverse() * moved *
                    motion_of(chain_[5], one.values[5]).inverse() *
                    motion_of(chain_[4], one.values[4]).inverse();
  ThreeJoints ways;
  turns_in_plane(chain_[1], chain_[2], chain_[3], rest, ways);
  for (int i = 0; i < ways.count; ++i) {
    const ThreeJoints::Way& way = ways.ways[static_cast<std::size_t>(i)];
    std::copy(way.value.begin(), way.value.end(), one.values.begin() + 1);
    if (way.free >= 0) one.free_joint = 1 + way.free;
    out.add(one);
  }
}

}  // namespace er
