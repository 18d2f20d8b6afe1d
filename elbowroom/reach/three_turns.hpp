// Three turns in a row: about parallel axes, to make a motion of their plane; about any axes, to
// take a point to another, which is the arm of a chain whose wrist is a point.
#pragma once

#include "elbowroom/reach/three_joints.hpp"

namespace er {

/// The turns about three parallel axes (of either sense) that together make a motion of their
/// plane: the last leaves its own axis where it is, the two before it make a triangle. Up to two
/// ways.
void turns_in_plane(const Screw& first, const Screw& second, const Screw& third, const Pose& motion,
                    ThreeJoints& out);

/// The question for three given axes of which the last two are not parallel (that is
/// ParallelElbow), with what can be worked out once for all goals. Paths by the axes' geometry: the
/// first two parallel, the first two meeting, or none of these, which leaves an equation of the
/// fourth degree (D. Pieper, "The kinematics of manipulators under computer control", 1968).
class ThreeTurnSolver {
 public:
  /// `point` is what they take somewhere.
  ThreeTurnSolver(const ThreeScrews& axes, const Vector3& point);

  void solve(const Vector3& goal, ThreeJoints& out) const;
  [[nodiscard]] const char* path() const;

 private:
  enum class Path { first_parallel, first_meet, general };

  void by_path(Path path, const Vector3& goal, ThreeJoints& out) const;

  void first_parallel(const Vector3& goal, ThreeJoints& out) const;
  void first_meet(const Vector3& goal, ThreeJoints& out) const;
  void general(const Vector3& goal, ThreeJoints& out) const;
  // The second turn of the general path: where the point is before it and where it has to be.
  struct SecondTurn {
    Vector3 u;
    double n, t;
    double wanted_n, wanted_t;
  };
  [[nodiscard]] SecondTurn second_turn(double third, const Vector3& goal) const;

  ThreeScrews axes_;
  Vector3 point_;
  Path path_;
  Path nearly_ = Path::general;  // where axes 1 and 2 are all but parallel, or all but meet
  Vector3 foot_first_ = Vector3::Zero();  // of the common normal of axes 1 and 2
  Vector3 foot_second_ = Vector3::Zero();
};

}  // namespace er
