#include "elbowroom/model/joint.hpp"

namespace er {

std::string_view name_of(JointKind kind) {
  switch (kind) {
    case JointKind::fixed:
      return "fixed";
    case JointKind::revolute:
      return "revolute";
    case JointKind::prismatic:
      return "prismatic";
  }
  return "unknown";
}

Pose pose_at(const Joint& joint, double value) {
  switch (joint.kind) {
    case JointKind::revolute:
      return {product(joint.origin.rotation, rotation_about(joint.axis, value)),
              joint.origin.position};
    case JointKind::prismatic:
      return {joint.origin.rotation, joint.origin * Vector3(value * joint.axis)};
    case JointKind::fixed:
      break;
  }
  return joint.origin;
}

void set_zero_and_sense(Joint& joint, double zero, bool reversed) {
  // The geometry stays; only the scale on the joint is moved and turned round.
  const double length = joint.axis.norm();
  if (length > 0.0) joint.axis /= length;
  joint.origin = pose_at(joint, zero);
  if (reversed) joint.axis = -joint.axis;
}

Dimension value_dimension(JointKind kind) {
  return kind == JointKind::prismatic ? dimension::length : dimension::angle;
}

}  // namespace er
