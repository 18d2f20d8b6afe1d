// Any six turning joints: all real postures, up to sixteen.
//
// This work is based on: M. Raghavan and B. Roth, "Inverse kinematics of the general 6R manipulator
// and related linkages", Journal of Mechanical Design 115, 1993. Fourteen equations without the
// last joint are bilinear in joints 1 and 2 and in joints 4 and 5; eliminating the first two leaves
// a 12 x 12 matrix whose determinant, as a function of joint 3, is a trigonometric polynomial of
// degree 8. It is found from its values at evenly spaced angles, which is as well conditioned as
// can be, its real roots are isolated with bounds, and every candidate is polished on the chain.
#pragma once

#include <memory>
#include <optional>

#include "elbowroom/reach/closed_solutions.hpp"

namespace er {

class GeneralSix {
 public:
  /// Nothing unless the chain has six turning joints.
  static std::optional<GeneralSix> of(const ScrewChain& chain);

  /// All postures. Postures that come in families, at singularities of the chain's geometry, are
  /// not listed.
  void solve(const Pose& tip, ClosedSolutions& out) const;

 private:
  explicit GeneralSix(const ScrewChain& chain);
  // Polishes a candidate and keeps it if it meets the pose and is new.
  void take(const Pose& tip, ClosedSolution one, ClosedSolutions& out) const;
  void follow_back(const std::array<Screw, 6>& from, const Pose& tip, ClosedSolution& one) const;
  void solve_changed(const Pose& tip, ClosedSolutions& out) const;
  ScrewChain chain_;
  struct Constants;
  std::shared_ptr<const Constants> constants_;
};

}  // namespace er
