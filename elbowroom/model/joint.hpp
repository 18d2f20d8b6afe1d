// Joints: how a link is carried by the one before it.
#pragma once

#include <limits>
#include <optional>
#include <string>
#include <string_view>

#include "elbowroom/base/pose.hpp"
#include "elbowroom/base/units.hpp"

namespace er {

enum class JointKind { fixed, revolute, prismatic };

std::string_view name_of(JointKind kind);

/// What something may be going down, below zero, and going up.
struct WayLimits {
  double low = -std::numeric_limits<double>::infinity();
  double high = std::numeric_limits<double>::infinity();

  /// How much of the limit of its way a value takes; 1 is all of it.
  [[nodiscard]] double share_of(double value) const {
    return value >= 0.0 ? value / high : value / low;
  }
  /// What holds either way.
  [[nodiscard]] double either() const { return high < -low ? high : -low; }
};

/// What one joint may do. Radians or metres, and per second to the power 1, 2 and 3; torque in N m
/// (a force in N for a prismatic joint). A limit that is not stated is infinite; `inspect` lists
/// what is missing and for which verb.
struct JointLimits {
  double lower = -std::numeric_limits<double>::infinity();
  double upper = std::numeric_limits<double>::infinity();
  double velocity = std::numeric_limits<double>::infinity();
  double acceleration = std::numeric_limits<double>::infinity();
  double jerk = std::numeric_limits<double>::infinity();
  double torque = std::numeric_limits<double>::infinity();
  /// Where the limits of velocity or acceleration differ by the way. Those above are what holds
  /// either way then, whatever they are given as.
  std::optional<WayLimits> velocity_ways = {};
  std::optional<WayLimits> acceleration_ways = {};
};

/// Ties a joint to another of the same arm: value = ratio * (value of that joint) + offset, as the
/// second finger of a gripper or the rod of a parallelogram is tied.
struct Follow {
  std::string joint = {};  ///< empty: the joint moves by itself
  double ratio = 1.0;      ///< per unit of that joint, SI
  double offset = 0.0;     ///< rad or m
};

struct Joint {
  std::string name = {};
  JointKind kind = JointKind::fixed;
  Pose origin = {};                 ///< frame of the carried link at value 0, in the parent link
  Vector3 axis = Vector3::UnitZ();  ///< in the carried link's frame; unit length once built
  JointLimits limits = {};
  bool continuous = false;   ///< a revolute joint that turns without end, so it has no range
  Follow follow = {};        ///< whom it follows, if anyone
  double damping = 0.0;      ///< N m s/rad or N s/m; 0 is "not stated"
  double friction = 0.0;     ///< N m or N; 0 is "not stated"
  std::string part_of = {};  ///< the planar or floating joint that this one is a part of, if any
};

/// Reverses which way is positive, and sets how far the joint is turned (or slid) at value 0.
void set_zero_and_sense(Joint& joint, double zero, bool reversed);

/// The pose of the carried link in its parent, at a joint value. Allocates nothing.
Pose pose_at(const Joint& joint, double value);

/// Angle for a revolute joint, length for a prismatic one.
Dimension value_dimension(JointKind kind);

}  // namespace er
