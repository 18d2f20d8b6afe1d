// A joint curve: joint positions as piecewise polynomials of one parameter. With time as the
// parameter it is a motion; over [0, 1] it is a path.
#pragma once

#include <vector>

#include "elbowroom/base/posture.hpp"
#include "elbowroom/base/quintics.hpp"

namespace er {

/// The state of all joints at one parameter value: radians or metres, per second to the power 0
/// to 3.
struct JointState {
  Posture position;
  Posture velocity;
  Posture acceleration;
  Posture jerk;
};

/// One stretch of a curve: a polynomial per joint in the parameter since its start.
struct CurvePiece {
  CurvePiece() {}  // NOLINT: defaulted, a vector of them would be filled with zeros first
  CurvePiece(double seconds, Quintics polynomials)
      : duration(seconds), joints(std::move(polynomials)) {}

  double duration = 0.0;
  Quintics joints;
};

/// The state so long after the piece begins. Beyond its end its polynomials go on. Allocates
/// nothing.
void state_in(const CurvePiece& piece, double time, JointState& out);

/// The same stretch, `factor` times as long.
CurvePiece slower(CurvePiece piece, double factor);

/// The largest that each joint's velocity (`derivative` 1) or acceleration (2) gets over a piece,
/// either way.
Posture largest_over(const CurvePiece& piece, int derivative);

class JointCurve {
 public:
  JointCurve() = default;
  /// Pieces follow each other in time. Throws InputError unless durations are above zero and
  /// finite and all pieces have the same number of joints.
  explicit JointCurve(std::vector<CurvePiece> pieces);

  [[nodiscard]] double duration() const { return starts_.empty() ? 0.0 : starts_.back(); }
  [[nodiscard]] int dof() const {
    return pieces_.empty() ? 0 : static_cast<int>(pieces_.front().joints.size());
  }
  [[nodiscard]] const std::vector<CurvePiece>& pieces() const { return pieces_; }

  /// The state at `time`, held at the ends outside [0, duration]. Allocates nothing.
  void at(double time, JointState& out) const;
  [[nodiscard]] JointState at(double time) const;

  /// The same curve, `factor` times as long.
  [[nodiscard]] JointCurve stretched(double factor) const;
  /// The same way back.
  [[nodiscard]] JointCurve reversed() const;
  /// From one parameter to a later one, both within the curve (InputError).
  [[nodiscard]] JointCurve cut(double from, double to) const;
  /// Some of its joints alone: `count` from `first` on.
  [[nodiscard]] JointCurve joints(int first, int count) const;
  /// This curve and then `next`, which must begin where this one ends (to 1e-6; InputError).
  [[nodiscard]] JointCurve then(const JointCurve& next) const;

 private:
  std::vector<CurvePiece> pieces_;
  std::vector<double> starts_;  // of each piece, and the end of the last
};

/// Curves of several arms as one of all their joints: each begins at its own parameter (>= 0) and
/// stands still before and after. All are told of up to `until`, at least as long as any of them.
/// None may be empty. Throws InputError.
struct StartedCurve {
  double begins = 0.0;
  JointCurve curve;
};
JointCurve side_by_side(const std::vector<StartedCurve>& curves, double until);

/// At rest for so long (> 0).
JointCurve at_rest(const Posture& posture, double duration);

/// Straight joint lines through `waypoints`, one unit of the parameter each. Throws InputError for
/// fewer than two.
JointCurve lines_through(const std::vector<Posture>& waypoints);

}  // namespace er
