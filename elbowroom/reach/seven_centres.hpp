// Seven turning joints with a shoulder and a wrist that are points: axes 1 to 3 meet in one, axes 5
// to 7 in another. The distance of the two gives the elbow joint; what stays free is the turn of
// the elbow about the line between them, the elbow angle.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "elbowroom/reach/closed_solutions.hpp"
#include "elbowroom/reach/elbow_sweep.hpp"

namespace er {

/// Elbow angles from `from` up to `to` (rad, to > from, at most one turn) in which every joint of
/// one branch keeps its range.
struct ElbowInterval {
  int branch = 0;  ///< of its postures (ClosedSolution::branch)
  double from = 0.0;
  double to = 0.0;
};

/// The postures of many elbow angles: shoulders, wrists and values of the elbow joint as they are,
/// put together when asked for.
class SevenSweep {
 public:
  static constexpr int kBranches = 8;

  [[nodiscard]] int count() const { return count_; }
  /// False where this branch has no posture at elbow angle i.
  bool posture(int i, int branch, ClosedSolution& out) const;

 private:
  friend class SevenCentres;
  int count_ = 0;
  std::vector<ElbowEight> eights_ = {};
  ElbowCircles circles_ = {};
};

class SevenCentres {
 public:
  /// Nothing when the chain has another form.
  static std::optional<SevenCentres> of(const ScrewChain& chain);

  /// The postures for a tip pose and an elbow angle: up to eight, in the order of their branches.
  /// The elbow angle is zero where the elbow lies in the half plane of the shoulder-wrist line and
  /// the direction of axis 1 (of the world's x where the two are parallel), and grows by the right
  /// hand from shoulder to wrist.
  void solve(const Pose& tip, double elbow_angle, ClosedSolutions& out) const;
  /// The same for many elbow angles, eight at a time in vector lanes. Allocates nothing when `out`
  /// has held as many before.
  void sweep(const Pose& tip, std::span<const double> elbow_angles, SevenSweep& out) const;
  /// Where each branch keeps the ranges of all joints (7 values each). Ends are exact: a joint at
  /// an end of its range is a linear equation in the cosine and sine of the elbow angle.
  [[nodiscard]] std::vector<ElbowInterval> feasible(const Pose& tip, const double* lower,
                                                    const double* upper) const;

  /// The signs of the bends of shoulder, elbow and wrist: "+, -, +"; a joint bends + when it turns
  /// positively out of line.
  [[nodiscard]] std::string branch(const ClosedSolution& solution) const;

  [[nodiscard]] const ScrewChain& chain() const { return chain_; }

 private:
  SevenCentres(const ScrewChain& chain, const Vector3& shoulder, const Vector3& wrist);
  [[nodiscard]] ElbowQuestion asked(const Pose& tip) const;

  ScrewChain chain_;
  Vector3 shoulder_;
  Vector3 wrist_in_tip_;
  Matrix3 wrist_base_in_tip_;  // the base of the wrist's axes
  ElbowGeometry arm_;
};

}  // namespace er
