#include "elbowroom/reach/three_parallel.hpp"

#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/subproblems.hpp"

namespace er {

ThreeParallel::ThreeParallel(const ScrewChain& chain, const Vector3& meet)
    : chain_(chain), meet_(meet), tip_inverse_(chain.tip.inverse()) {
  for (int i = 0; i < 3; ++i)
    sense_[static_cast<std::size_t>(i)] = chain[i + 1].axis.dot(chain[1].axis) > 0.0 ? 1.0 : -1.0;
}

std::optional<ThreeParallel> ThreeParallel::of(const ScrewChain& chain) {
  if (chain.size() != 6) return std::nullopt;
  for (const Screw& screw : chain.screws)
    if (!screw.turns) return std::nullopt;
  const auto meet = meeting_point(chain[4], chain[5]);
  const bool parallel = are_parallel(chain[1], chain[2]) && are_parallel(chain[2], chain[3]);
  // A first axis along the three, or a fifth, leaves nothing to tell them apart by.
  if (!meet || !parallel || are_parallel(chain[0], chain[1]) || are_parallel(chain[3], chain[4]))
    return std::nullopt;
  return ThreeParallel(chain, *meet);
}

void ThreeParallel::solve(const Pose& tip, ClosedSolutions& out) const {
  out.count = 0;
  const Pose moved = tip * tip_inverse_;
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
      solve_plane(moved, one, out);
    }
  }
}

void ThreeParallel::solve_plane(const Pose& moved, ClosedSolution one, ClosedSolutions& out) const {
  // What joints 2 to 4 have to do together: a motion in their plane.
  const Pose rest = chain_.motion(0, one.values[0]).inverse() * moved *
                    chain_.motion(5, one.values[5]).inverse() *
                    chain_.motion(4, one.values[4]).inverse();
  const Vector3& along = chain_[1].axis;
  const Vector3 across = along.unitOrthogonal();
  const double whole = turn_onto(along, across, rest.rotation * across);
  const auto flat = [&](const Vector3& v) { return Vector3(v - along.dot(v) * along); };
  const Vector3 second = flat(chain_[1].point);
  const Vector3 third = flat(chain_[2].point);
  const Vector3 fourth = flat(chain_[3].point);
  const Vector3 goal = flat(rest * chain_[3].point);
  const TwoAngles thirds =
      turns_to_distance(along, fourth - third, second - third, (goal - second).norm());
  for (int i = 0; i < thirds.count; ++i) {
    const Vector3 there = third + rotation_about(along, thirds.angle[i]) * (fourth - third);
    const double turn = turn_onto(along, there - second, goal - second);
    one.values[1] = sense_[0] * turn;
    one.values[2] = sense_[1] * thirds.angle[i];
    one.values[3] = sense_[2] * (whole - turn - thirds.angle[i]);
    for (double& value : one.values) value = std::remainder(value, 2.0 * std::numbers::pi);
    out.add(one);
  }
}

}  // namespace er
