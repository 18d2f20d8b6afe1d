// Three joints of which one or two slide, that take a point to another: what carries the wrist of
// a column, of a beam that slides out, of an arm on a rail.
#pragma once

#include <string>

#include "elbowroom/reach/three_joints.hpp"

namespace er {

class SlidingArm {
 public:
  /// `point` is what they take somewhere.
  SlidingArm(const ThreeScrews& joints, const Vector3& point);

  void solve(const Vector3& goal, ThreeJoints& out) const;
  /// "joint 1 slides", "joints 1 and 2 slide".
  [[nodiscard]] std::string path() const;

 private:
  ThreeScrews joints_;
  Vector3 point_;
  // Solved from the last joint to the first: the question back from the goal to the point.
  bool from_last_ = false;
};

}  // namespace er
