// Six joints of which three slide, wherever in the chain: only the other three turn the hand, and
// what is left to the slides is three equations of the first degree. A gantry with any wrist.
#pragma once

#include <optional>

#include "elbowroom/reach/closed_solutions.hpp"

namespace er {

class ThreeSlides {
 public:
  /// Nothing when the chain has another form.
  static std::optional<ThreeSlides> of(const ScrewChain& chain);

  /// All postures for a tip pose. Allocates nothing.
  void solve(const Pose& tip, ClosedSolutions& out) const;
  /// The joints that turn, of the chain.
  [[nodiscard]] const std::array<int, 3>& turning() const { return turns_; }

 private:
  explicit ThreeSlides(const ScrewChain& chain);

  ScrewChain chain_;
  std::array<int, 3> turns_ = {};
  std::array<int, 3> slides_ = {};
};

}  // namespace er
