// Seven turning joints with a shoulder and a wrist that are points: axes 1 to 3 meet in one, axes 5
// to 7 in another. The distance of the two gives the elbow joint; what stays free is the turn of
// the elbow about the line between them, the elbow angle.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "elbowroom/reach/closed_solutions.hpp"
#include "elbowroom/reach/wrist_axes.hpp"

namespace er {

struct ElbowCircle;
struct ThreeOfSide;

/// Elbow angles from `from` up to `to` (rad, to > from, at most one turn) in which every joint of
/// one branch keeps its range.
struct ElbowInterval {
  int branch = 0;  ///< 0 to 7
  double from = 0.0;
  double to = 0.0;
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
  /// The same for `count` elbow angles, eight at a time in vector lanes. Allocates nothing.
  void solve(const Pose& tip, const double* elbow_angles, int count, ClosedSolutions* out) const;
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
  // For one value of the elbow joint: the shoulder's turn at elbow angle zero, and the line about
  // which it goes on turning.
  struct Frame {
    double elbow_joint;
    Matrix3 elbow;  // its turn
    Matrix3 at_zero;
    Vector3 line;
    bool straight;  // no elbow to turn: any elbow angle is the same posture of the links
  };
  int frames(const Pose& moved, std::array<Frame, 2>& out) const;
  [[nodiscard]] ElbowCircle circle(const Frame& frame, const Pose& moved) const;
  // Each shoulder with each wrist.
  static void add(const Frame& frame, const ThreeOfSide* const (&shoulders)[2],
                  const ThreeOfSide* const (&wrists)[2], ClosedSolutions& out);

  ScrewChain chain_;
  Vector3 shoulder_;
  Vector3 wrist_;
  Vector3 elbow_;
  WristAxes shoulder_axes_;
  WristAxes wrist_axes_;
};

}  // namespace er
