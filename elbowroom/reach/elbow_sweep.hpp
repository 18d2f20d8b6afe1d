// Shoulder and wrist of seven joints for eight elbow angles at once, or for one all that there is,
// in vector lanes.
#pragma once

#include "elbowroom/reach/wrist_axes.hpp"

namespace er {

/// For one value of the elbow joint: where the upper arm and what the hand asks for are at elbow
/// angle zero, and the line from shoulder to wrist that the elbow turns about.
struct ElbowCircle {
  Vector3 line;              ///< unit
  Vector3 shoulder_hand;     ///< where the shoulder's turn takes its third axis
  Vector3 shoulder_pointed;  ///< and that axis' pointer
  Vector3 wrist_hand;        ///< where the wrist's third axis has to be, in the world
  Vector3 wrist_pointed;
  Matrix3 to_forearm;  ///< from the world, once the elbow's turn about the line is taken back
};

/// The three turns of a shoulder or of a wrist on one side.
struct ThreeOfSide {
  static constexpr double kNone = 0.0;
  static constexpr double kPosture = 1.0;
  static constexpr double kFirstIsFree = 2.0;  // a posture whose first turn may be anything

  double angles[3];
  double kind;
};

struct ElbowBranches {
  static constexpr int kAngles = 8;
  ThreeOfSide shoulder[2][kAngles];  ///< [side][elbow angle]
  ThreeOfSide wrist[2][kAngles];
};

/// Allocates nothing; the same bits on every instruction set.
void elbow_branches(const ElbowCircle& circle, const WristAxes& shoulder, const WristAxes& wrist,
                    const double* elbow_angles, ElbowBranches& out);

/// Of one elbow angle: shoulder and wrist, on both sides, for both values of the elbow joint.
struct ElbowSides {
  static constexpr int kAll = 8;
  static constexpr int at(int circle, bool wrist, int side) {
    return 4 * circle + 2 * static_cast<int>(wrist) + side;
  }
  ThreeOfSide all[kAll];
};

/// The same, and of one line. Allocates nothing; the same bits on every instruction set.
void elbow_sides(const ElbowCircle (&circles)[2], const WristAxes& shoulder, const WristAxes& wrist,
                 double elbow_angle, ElbowSides& out);

}  // namespace er
