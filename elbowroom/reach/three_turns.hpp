// Three turns in a row: about parallel axes, to make a motion of their plane; about any axes, to
// take a point to another, which is the arm of a chain whose wrist is a point.
#pragma once

#include <array>

#include "elbowroom/reach/screw_chain.hpp"

namespace er {

/// Up to four ways.
struct ThreeTurns {
  struct Way {
    std::array<double, 3> angle = {};
    int free = -1;  ///< a turn that may be anything, if one may
  };
  int count = 0;
  bool sure = true;  ///< none is missing: not doubtful for rounding
  std::array<Way, 4> ways = {};
  void add(double a, double b, double c, int free) {
    if (count < 4) ways[static_cast<std::size_t>(count++)] = {{a, b, c}, free};
  }
};

/// The turns about three parallel axes (of either sense) that together make a motion of their
/// plane: the last leaves its own axis where it is, the two before it make a triangle. Up to two
/// ways.
void turns_in_plane(const Screw& first, const Screw& second, const Screw& third, const Pose& motion,
                    ThreeTurns& out);

/// The question for three given axes of which the last two are not parallel (that is
/// ParallelElbow), with what can be worked out once for all goals. Paths by the axes' geometry: the
/// first two parallel, the first two meeting, or none of these, which leaves an equation of the
/// fourth degree (D. Pieper, "The kinematics of manipulators under computer control", 1968).
class ThreeTurnSolver {
 public:
  /// `point` is taken somewhere by the first three screws of the chain.
  ThreeTurnSolver(const ScrewChain& chain, const Vector3& point);

  void solve(const Vector3& goal, ThreeTurns& out) const;
  [[nodiscard]] const char* path() const;

 private:
  enum class Path { first_parallel, first_meet, general };

  [[nodiscard]] int free_turn(const Vector3& after_third, const Vector3& goal) const;
  void first_parallel(const Vector3& goal, ThreeTurns& out) const;
  void first_meet(const Vector3& goal, ThreeTurns& out) const;
  void general(const Vector3& goal, ThreeTurns& out) const;
  void refine(const Vector3& goal, std::array<double, 3>& angle) const;
  // The second turn of the general path: where the point is before it and where it has to be.
  struct SecondTurn {
    Vector3 u;
    double n, t;
    double wanted_n, wanted_t;
  };
  [[nodiscard]] SecondTurn second_turn(double third, const Vector3& goal) const;

  std::array<Screw, 3> axes_;
  Vector3 point_;
  Path path_;
  Vector3 foot_first_ = Vector3::Zero();  // of the common normal of axes 1 and 2
  Vector3 foot_second_ = Vector3::Zero();
};

}  // namespace er
