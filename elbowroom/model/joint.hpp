// Joints: how a link is carried by the one before it.
#pragma once

#include <limits>
#include <string>
#include <string_view>

#include "elbowroom/base/pose.hpp"
#include "elbowroom/base/units.hpp"

namespace er {

enum class JointKind { fixed, revolute, prismatic };

std::string_view name_of(JointKind kind);

/// What one joint may do. Radians or metres, and per second to the power 1, 2 and 3. A limit that
/// is not stated is infinite; `inspect` lists what is missing and for which verb.
struct JointLimits {
  double lower = -std::numeric_limits<double>::infinity();
  double upper = std::numeric_limits<double>::infinity();
  double velocity = std::numeric_limits<double>::infinity();
  double acceleration = std::numeric_limits<double>::infinity();
  double jerk = std::numeric_limits<double>::infinity();
};

struct Joint {
  std::string name = {};
  JointKind kind = JointKind::fixed;
  Pose origin = {};                 ///< frame of the carried link at value 0, in the parent link
  Vector3 axis = Vector3::UnitZ();  ///< in the carried link's frame; unit length once built
  JointLimits limits = {};
};

/// The pose of the carried link in its parent, at a joint value. Allocates nothing.
Pose pose_at(const Joint& joint, double value);

/// Angle for a revolute joint, length for a prismatic one.
Dimension value_dimension(JointKind kind);

}  // namespace er
