// Six turning joints of which the last three axes meet in one point, the wrist centre: three turns
// bring the centre to its place, three more turn the hand. D. Pieper, "The kinematics of
// manipulators under computer control", 1968.
#pragma once

#include <optional>

#include "elbowroom/reach/closed_solutions.hpp"
#include "elbowroom/reach/three_turns.hpp"

namespace er {

class SphericalWrist {
 public:
  /// Nothing when the chain has another form.
  static std::optional<SphericalWrist> of(const ScrewChain& chain);

  /// All postures for a tip pose.
  void solve(const Pose& tip, ClosedSolutions& out) const;
  [[nodiscard]] const ThreeTurnSolver& arm() const { return arm_; }
  [[nodiscard]] const Vector3& centre() const { return centre_; }

 private:
  SphericalWrist(const ScrewChain& chain, const Vector3& centre);

  ScrewChain chain_;
  Vector3 centre_;
  ThreeTurnSolver arm_;
};

/// The last three turns of a chain as turns of directions, given the whole turn they make: R4 R5 R6
/// = turn. Up to two.
struct WristTurns {
  int count = 0;
  bool any = false;  ///< the first may be anything
  double angle[2][3] = {};
};
WristTurns wrist_turns(const Vector3& first, const Vector3& second, const Vector3& third,
                       const Matrix3& turn);

}  // namespace er
