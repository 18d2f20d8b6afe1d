// Six turning joints of any geometry, eliminated down to the third.
//
// This work is based on: M. Raghavan and B. Roth, "Inverse kinematics of the general 6R manipulator
// and related linkages", Journal of Mechanical Design 115, 1993. Fourteen equations without the
// last joint are bilinear in joints 1 and 2 and in joints 4 and 5; eliminating the first two leaves
// a 12 x 12 matrix whose determinant, as a function of joint 3, is a trigonometric polynomial of
// degree 8. Two of its blocks are eliminated on their own, as D. Manocha and J. Canny do
// ("Efficient inverse kinematics for general 6R manipulators", IEEE Transactions on Robotics and
// Automation 10, 1994, reduce it further, too), which leaves 6 x 6. The polynomial is found from
// its values at evenly spaced angles, eight at a time in vector lanes.
#pragma once

#include <array>

#include "elbowroom/reach/closed_solutions.hpp"

namespace er {

/// What an elimination gave: joint values that are good to some digits, to be polished.
struct SixCandidates {
  static constexpr int kMost = 48;
  int count = 0;  ///< of roots and, behind them, of what may be a double one but for rounding
  int roots = 0;
  std::array<std::array<double, 6>, kMost> values;
  /// Every posture has its candidate: nothing that was divided by was near zero, and each root of
  /// the polynomial was isolated.
  bool sure = true;
};

class SixElimination {
 public:
  explicit SixElimination(const std::array<Screw, 6>& screws);
  /// `whole` is what all six have to do together.
  void solve(const Pose& whole, SixCandidates& out) const;

  // For the kernels. Lengths are in the chain's own size, from its middle.
  struct Constants {
    double size;
    Vector3 middle;
    Vector3 hand_point;  ///< of joint 6's axis
    std::array<Vector3, 6> axis;
    Vector3 pointer;                ///< at right angles to axis 6
    std::array<Pose, 9> backwards;  ///< turns about axes 2 and 1 by 0, 90 and 180 deg
    double left[14][27];  ///< by the monomials of joint 3 (outer), 4 and 5: cosine, sine, 1 of each
  };
  /// What is left when joints 1 and 2 are eliminated for one pose.
  struct Reduced {
    double rows[3][6][9];  ///< by joint 3: cosine, sine, 1; by powers of the half tangents of 4, 5
    double root[8][8];     ///< upper triangle, for the monomials of joints 1 and 2
    double right[8];
    double top[8][27];
    Vector3 pointed;  ///< where the pointer has to be
    bool regular;
  };

 private:
  Constants constants_;
};

}  // namespace er
