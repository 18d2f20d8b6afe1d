// Shoulder and wrist of seven joints, for one elbow angle or for eight at once, in vector lanes.
//
// The two look at each other along the line between them, which the elbow turns about. The turns
// of the wrist are taken from its end, the last axis first and all of them pointing the other way:
// so it is one more shoulder, of an arm that stands on the hand.
#pragma once

#include "elbowroom/reach/bend.hpp"
#include "elbowroom/reach/wrist_axes.hpp"

namespace er {

/// A vector beyond the elbow joint, seen from before it: fixed + cosine * ... + sine * ...
struct Swing {
  Vector3 fixed;
  Vector3 by_cosine;
  Vector3 by_sine;
};

/// Shoulder or wrist. `line` (from shoulder to wrist) and `elbow` (from the shoulder to the foot of
/// the elbow's axis) are as its link to the elbow sees them.
struct ElbowNeighbour {
  WristAxes axes;
  Swing line;
  Swing elbow;
};

/// What can be worked out once for an arm.
struct ElbowGeometry {
  ElbowNeighbour shoulder;
  ElbowNeighbour wrist;
  Vector3 bend_axis;
  DistanceBend bend;  ///< how far the wrist is from the shoulder
};

/// What a pose of the tip asks.
struct ElbowQuestion {
  double squared_distance;  ///< of the wrist from the shoulder
  Matrix3 frame;            ///< in which elbow angles count: its first column points from the
                            ///< shoulder to the wrist, its second is where the elbow is at zero
  Matrix3 hand;             ///< the base of the wrist's axes, where the hand has it
};

/// What shoulder and wrist have to do (base^T R end, see WristAxes) at an elbow angle of a: fixed +
/// cos a * by_cosine + sin a * by_sine, row by row, for each lane of ElbowSides.
struct ElbowCircles {
  static constexpr int kLanes = 8;
  static constexpr int at(int value_of_joint, bool wrist, int side) {
    return 4 * value_of_joint + 2 * static_cast<int>(wrist) + side;
  }
  double fixed[3][3][kLanes];
  double by_cosine[3][3][kLanes];
  double by_sine[3][3][kLanes];
  double elbow_joint[kLanes];  ///< rad
  double is_there[kLanes];     ///< 1 where that value of the elbow joint is one
  double is_straight[kLanes];  ///< 1 where there is no elbow to turn: any elbow angle is the same
                               ///< posture of the links
};

/// The three turns of a shoulder or of a wrist on one side, in the order of the joints.
struct ThreeOfSide {
  static constexpr double kNone = 0.0;
  static constexpr double kPosture = 1.0;
  static constexpr double kOneIsFree = 2.0;  // the outer two turn about one line

  double angles[3];
  double kind;
};

struct ElbowSides {
  ThreeOfSide all[ElbowCircles::kLanes];
  double elbow_joint[ElbowCircles::kLanes];
  double is_straight[ElbowCircles::kLanes];
};

/// Of eight elbow angles.
struct ElbowEight {
  static constexpr int kAngles = 8;
  ThreeOfSide shoulder[2][2][kAngles];  ///< [value of the elbow joint][side][elbow angle]
  ThreeOfSide wrist[2][2][kAngles];
};

// All of them allocate nothing, and give the same bits on every instruction set.

void elbow_circles(const ElbowGeometry& arm, const ElbowQuestion& question, ElbowCircles& out);

/// Of one elbow angle: shoulder and wrist, on both sides, for both values of the elbow joint.
void elbow_sides(const ElbowGeometry& arm, const ElbowQuestion& question, double elbow_angle,
                 ElbowSides& out);

/// Of eight elbow angles: what elbow_sides gives.
void elbow_eight(const ElbowGeometry& arm, const ElbowCircles& circles, const double* elbow_angles,
                 ElbowEight& out);

}  // namespace er
