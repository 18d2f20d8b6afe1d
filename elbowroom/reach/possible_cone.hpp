// Which ways a tool may point at a place.
#pragma once

#include "elbowroom/kinematics/target.hpp"

namespace er {

/// Of directions spread evenly over the sphere (a Fibonacci lattice), those in which the tool's z
/// can point with its tip at the place, turned about that axis as it likes, within the joint
/// ranges; things in the way do not count. The cone is looked at once more by itself, so that only
/// what is narrower than its directions are apart (a twentieth of a cone) can be missing in it.
struct PossibleCone {
  int tried = 0;
  int possible = 0;
  Vector3 axis = Vector3::UnitZ();  ///< in the world: the middle of the widest cone of these
  double half_angle = 0.0;  ///< rad; less the spacing of the directions, and 0 for next to none

  /// "the tool's z may point any way within 35 deg of [0.10, 0.00, -0.99] (61 of 200 directions
  /// tried)".
  [[nodiscard]] std::string text() const;
};

/// Of a target of one full pose (InputError for another).
PossibleCone possible_cone(const Arm& arm, const Target& target);

}  // namespace er
