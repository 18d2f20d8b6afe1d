// The branches of six joints with a spherical wrist, eight at once in vector lanes: two sides of
// the shoulder, two of the elbow, two of the wrist.
#pragma once

#include "elbowroom/reach/bend.hpp"
#include "elbowroom/reach/three_joints.hpp"
#include "elbowroom/reach/wrist_axes.hpp"

namespace er {

/// The first three joints of a chain of which axes 2 and 3 are parallel, with what can be worked
/// out once: where they take `point`.
struct ParallelElbow {
  ParallelElbow(const ThreeScrews& axes, const Vector3& point);

  std::array<Vector3, 3> axis;
  std::array<Vector3, 3> at;
  Vector3 point;
  double height;      ///< of the point over axis 1, along axis 2
  DistanceBend bend;  ///< how far the point is from axis 2
};

/// Lane by lane.
struct WristBranches {
  static constexpr int kMost = 8;
  double value[6][kMost];    ///< rad, or m of a joint that slides
  double free_joint[kMost];  ///< 0 to 5, or -1
  double valid[kMost];       ///< 1 where the lane is a solution, -1 where the wrist cannot do what
                             ///< the arm leaves to it
};

/// All eight for a motion of the tip from zero. Lane = 4 shoulder + 2 elbow + wrist.
void wrist_branches(const ParallelElbow& elbow, const WristAxes& wrist, const Pose& moved,
                    WristBranches& out);
/// The same where the first three joints, of which any may slide, are known in up to four ways.
/// Lane = 2 way + wrist.
void wrist_branches(const ThreeScrews& arm, const ThreeJoints& ways, const WristAxes& wrist,
                    const Pose& moved, WristBranches& out);

}  // namespace er
