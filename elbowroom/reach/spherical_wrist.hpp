// Six turning joints of which the last three axes meet in one point, the wrist centre: three turns
// bring the centre to its place, three more turn the hand. D. Pieper, "The kinematics of
// manipulators under computer control", 1968.
#pragma once

#include <optional>
#include <variant>

#include "elbowroom/reach/closed_solutions.hpp"
#include "elbowroom/reach/wrist_branches.hpp"

namespace er {

class SphericalWrist {
 public:
  /// Nothing when the chain has another form.
  static std::optional<SphericalWrist> of(const ScrewChain& chain);

  /// All postures for a tip pose. Allocates nothing where axes 2 and 3 are parallel.
  void solve(const Pose& tip, ClosedSolutions& out) const;
  /// How the first three joints are solved: "axes 2 and 3 parallel".
  [[nodiscard]] const char* path() const;
  [[nodiscard]] const Vector3& centre() const { return centre_; }

 private:
  SphericalWrist(const ScrewChain& chain, const Vector3& centre);

  ScrewChain chain_;
  Vector3 centre_;
  WristAxes wrist_;
  std::variant<ParallelElbow, ThreeTurnSolver> arm_;
};

}  // namespace er
