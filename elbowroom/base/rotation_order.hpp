// Rotations as three angles, in every order there is: about fixed axes or about axes that move
// along. Rigid-body texts call the moving ones Euler (xyx, zyz, ...) and Tait-Bryan angles.
#pragma once

#include <array>
#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/base/pose.hpp"

namespace er {

/// "fixed_xyz" turns about the fixed x, then the fixed y, then the fixed z: roll, pitch, yaw.
/// "moving_zyz" turns about z, then about the new y, then about the newest z.
struct RotationOrder {
  bool moving = false;
  std::array<int, 3> axes{0, 1, 2};  ///< in the order they are applied; 0 is x

  bool operator==(const RotationOrder&) const = default;
};

/// All 24: twelve orders of axes, each fixed and moving.
const std::vector<RotationOrder>& all_rotation_orders();

/// "fixed_xyz", "moving_zyz", ...
std::string name_of(const RotationOrder& order);

/// "turned about the fixed x, then y, then z axis".
std::string describe(const RotationOrder& order);

/// "x", "-z", or "[0.577, 0.577, 0.577]": a unit vector for people.
std::string text_direction(const Vector3& direction);

/// Throws InputError naming the nearest known order. "rpy" is fixed_xyz.
RotationOrder rotation_order_named(std::string_view name);

/// Angles in the order they are applied, rad.
Matrix3 rotation_from(const RotationOrder& order, const Vector3& angles);

/// The inverse. The middle angle is in [-90 deg, 90 deg] for three different axes and in
/// [0 deg, 180 deg] where first and last axis are the same. Where only a sum of the outer two is
/// determined, the last applied is 0.
Vector3 angles_of(const RotationOrder& order, const Matrix3& rotation);

}  // namespace er
