// Six turning joints of which axes 2, 3 and 4 are parallel and axes 5 and 6 meet. The three keep
// the height along their direction, which gives the first joint; their common turn leaves their
// direction where it is, which gives the last two; what remains is a triangle in their plane.
#pragma once

#include <optional>

#include "elbowroom/reach/closed_solutions.hpp"

namespace er {

class ThreeParallel {
 public:
  /// Nothing when the chain has another form.
  static std::optional<ThreeParallel> of(const ScrewChain& chain);

  /// All postures for a tip pose, up to eight.
  void solve(const Pose& tip, ClosedSolutions& out) const;

 private:
  ThreeParallel(const ScrewChain& chain, const Vector3& meet);
  void solve_plane(const Pose& moved, ClosedSolution one, ClosedSolutions& out) const;

  ScrewChain chain_;
  Vector3 meet_;  // of axes 5 and 6
};

}  // namespace er
