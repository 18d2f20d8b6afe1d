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
      return {joint.origin.rotation * rotation_about(joint.axis, value), joint.origin.position};
    case JointKind::prismatic:
      return {joint.origin.rotation, joint.origin * Vector3(value * joint.axis)};
    case JointKind::fixed:
      break;
  }
  return joint.origin;
}

Dimension value_dimension(JointKind kind) {
  return kind == JointKind::prismatic ? dimension::length : dimension::angle;
}

}  // namespace er
