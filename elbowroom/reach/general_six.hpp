// Any six turning joints: all real postures, up to sixteen, by elimination of all joints but one
// (see six_elimination).
//
// A loop has no beginning: an elimination may leave any of the six joints, by turning the row of
// joints round until it is the third. Where special geometry (right angles, axes that meet or are
// parallel) makes one elimination degenerate, another often is not. Where all are, it is done for
// chains a little different, and the postures are followed back while the chain goes back to what
// it is.
#pragma once

#include <memory>
#include <optional>

#include "elbowroom/reach/closed_solutions.hpp"
#include "elbowroom/reach/six_elimination.hpp"

namespace er {

class GeneralSix {
 public:
  /// Nothing unless the chain has six turning joints.
  static std::optional<GeneralSix> of(const ScrewChain& chain);

  /// All postures, polished; whether none is missing, up to rounding: some elimination was regular
  /// and every real root of it gave a posture. Postures that come in families, at singularities of
  /// the chain's geometry, are not listed.
  void solve(const Pose& tip, ClosedSolutions& out) const;

 private:
  explicit GeneralSix(const ScrewChain& chain);
  bool take(const Pose& tip, const SixCandidates& found, ClosedSolutions& out) const;
  void take_some(const Pose& tip, const SixCandidates& found, int from, int end, double met_by,
                 ClosedSolutions& own) const;
  bool solve_turned(const Pose& tip, ClosedSolutions& out) const;
  void solve_changed(const Pose& tip, ClosedSolutions& out) const;

  ScrewChain chain_;
  LaneChain lanes_;
  std::shared_ptr<const SixElimination> elimination_;
};

}  // namespace er
