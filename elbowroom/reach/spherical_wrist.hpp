// Six joints of which the last three turn about axes that meet in one point, the wrist centre:
// three joints, of which one or two may slide, bring the centre to its place, three turn the hand.
// D. Pieper, "The kinematics of manipulators under computer control", 1968.
#pragma once

#include <optional>
#include <string>
#include <variant>

#include "elbowroom/reach/closed_solutions.hpp"
#include "elbowroom/reach/sliding_arm.hpp"
#include "elbowroom/reach/three_turns.hpp"
#include "elbowroom/reach/wrist_branches.hpp"

namespace er {

class SphericalWrist {
 public:
  /// Nothing when the chain has another form.
  static std::optional<SphericalWrist> of(const ScrewChain& chain);

  /// All postures for a tip pose. Allocates nothing where axes 2 and 3 are parallel.
  void solve(const Pose& tip, ClosedSolutions& out) const;
  /// How the first three joints are solved: "axes 2 and 3 parallel".
  [[nodiscard]] std::string path() const;
  [[nodiscard]] const Vector3& centre() const { return centre_; }

 private:
  using ArmSolver = std::variant<ParallelElbow, ThreeTurnSolver, SlidingArm>;
  SphericalWrist(const ScrewChain& chain, const Vector3& centre, ArmSolver arm);

  ScrewChain chain_;
  Vector3 centre_;
  WristAxes wrist_;
  ArmSolver arm_;
};

}  // namespace er
