// Seven joints of any kind: with one of them held there is a closed form for the other six. An arm
// on a rail, one on a turntable, seven joints whose shoulder or wrist is no point.
#pragma once

#include <optional>
#include <string>
#include <utility>

#include "elbowroom/reach/closed_form.hpp"

namespace er {

class OneHeld {
 public:
  /// Holds the first joint or the last: one that slides before one that turns, then that which
  /// leaves a special form. Nothing for other numbers of joints, and where neither leaves a form.
  static std::optional<OneHeld> of(const ScrewChain& chain);

  /// All postures of the chain with the held joint at `value` (rad or m), as ClosedForm::solve.
  void solve(const Pose& tip, double value, ClosedSolutions& out) const;

  [[nodiscard]] const ScrewChain& chain() const { return chain_; }
  /// Which is held: 0 or 6.
  [[nodiscard]] int joint() const { return joint_; }
  /// Of the other six, which tells branches apart.
  [[nodiscard]] const ClosedForm& others() const { return others_; }
  /// "joint 1 at values over its range, the others each time by their closed form: spherical wrist
  /// (...)".
  [[nodiscard]] std::string text() const;

 private:
  OneHeld(const ScrewChain& chain, int joint, ClosedForm others)
      : chain_(chain), joint_(joint), others_(std::move(others)) {}
  ScrewChain chain_;
  int joint_;
  ClosedForm others_;
};

}  // namespace er
