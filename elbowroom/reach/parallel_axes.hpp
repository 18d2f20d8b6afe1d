// Chains whose axes are all parallel: planar arms of one to three turning joints, with or without a
// joint that slides along the axes (a SCARA). The slide gives the height, a triangle in the plane
// the turns; what such a chain cannot do (lean the tool) it does not.
#pragma once

#include <optional>

#include "elbowroom/reach/closed_solutions.hpp"

namespace er {

class ParallelAxes {
 public:
  /// Nothing when the chain has another form.
  static std::optional<ParallelAxes> of(const ScrewChain& chain);

  /// Candidates, up to two: where the pose asks for more than the joints can do, the tip is not
  /// there, and ClosedForm drops them.
  void solve(const Pose& tip, ClosedSolutions& out) const;

  [[nodiscard]] int turning() const { return static_cast<int>(turns_.size()); }
  [[nodiscard]] bool slides() const { return slide_ >= 0; }

 private:
  explicit ParallelAxes(const ScrewChain& chain);

  ScrewChain chain_;
  std::vector<std::size_t> turns_;  // joints of the chain that turn, in order
  int slide_ = -1;                  // the one that slides
};

}  // namespace er
