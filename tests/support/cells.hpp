// Small arms and cells that tests are written against.
#pragma once

#include "elbowroom/base/random.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/model/cell.hpp"

namespace er::test {

/// A revolute link; limits are generous and complete.
inline Link turning(const std::string& name, const Vector3& at, const Vector3& axis,
                    std::vector<Part> parts = {}) {
  return {.name = name,
          .joint = {.kind = JointKind::revolute,
                    .origin = Pose::at(at),
                    .axis = axis,
                    .limits = {.lower = -3.0,
                               .upper = 3.0,
                               .velocity = 2.0,
                               .acceleration = 8.0,
                               .jerk = 80.0}},
          .parts = std::move(parts)};
}

inline Link sliding(const std::string& name, const Vector3& at, const Vector3& axis,
                    std::vector<Part> parts = {}) {
  Link link = turning(name, at, axis, std::move(parts));
  link.joint.kind = JointKind::prismatic;
  link.joint.limits = {
      .lower = -0.2, .upper = 0.3, .velocity = 0.5, .acceleration = 2.0, .jerk = 20.0};
  return link;
}

inline Posture values(std::initializer_list<double> list) {
  Posture q(static_cast<Eigen::Index>(list.size()));
  std::copy(list.begin(), list.end(), q.data());
  return q;
}

/// Two links of 400 and 300 mm in the plane z = 0, turning about z; the links are thin boxes.
inline Arm planar_arm() {
  const auto bar = [](double length) {
    return Part{.shape = Box{{length, 0.02, 0.02}}, .at = Pose::at({length / 2, 0, 0})};
  };
  Link base{.name = "base"};
  return Arm::build({.name = "flat",
                     .links = {base, turning("upper", {0, 0, 0}, Vector3::UnitZ(), {bar(0.4)}),
                               turning("fore", {0.4, 0, 0}, Vector3::UnitZ(), {bar(0.3)})},
                     .tools = {{.name = "tip", .tip = Pose::at({0.3, 0, 0})}},
                     .stances = {{"home", values({0.0, 0.0})}}});
}

/// Six axes with a spherical wrist, no shapes, ranges wide enough for all eight branches.
inline Arm wrist_arm() {
  Link base{.name = "base"};
  return Arm::build({.name = "six",
                     .links = {base, turning("l1", {0, 0, 0.16}, Vector3::UnitZ()),
                               turning("l2", {0.04, 0, 0.18}, Vector3::UnitY()),
                               turning("l3", {0, 0, 0.40}, Vector3::UnitY()),
                               turning("l4", {0.15, 0, 0.03}, Vector3::UnitX()),
                               turning("l5", {0.24, 0, 0}, Vector3::UnitY()),
                               turning("l6", {0.065, 0, 0}, Vector3::UnitX())},
                     .tools = {{.name = "tip", .tip = Pose::at({0.1, 0, 0})}}});
}

/// A tree of random joints, some sliding, some fixed, with shapes: for properties that must hold
/// for any arm.
inline Arm random_arm(RandomStream& random, int links) {
  const auto vector = [&](double size) {
    return Vector3(random.uniform(-size, size), random.uniform(-size, size),
                   random.uniform(-size, size));
  };
  ArmDescription arm{.name = "any"};
  arm.mount = {
      rotation_from_rpy(random.uniform(-3, 3), random.uniform(-1, 1), random.uniform(-3, 3)),
      vector(0.5)};
  for (int i = 0; i < links; ++i) {
    const std::string name = "l" + std::to_string(i);
    const std::vector<Part> parts{{.shape = Capsule{0.03, 0.1},
                                   .at = {rotation_with_z(vector(1).normalized()), vector(0.1)}}};
    if (i == 0) {
      arm.links.push_back({.name = name, .parts = parts});
      continue;
    }
    const int kind = random.index(5);
    Link link = kind == 0 ? sliding(name, vector(0.3), vector(1), parts)
                          : turning(name, vector(0.3), vector(1), parts);
    if (kind == 1) link.joint.kind = JointKind::fixed;
    link.joint.origin.rotation =
        rotation_from_rpy(random.uniform(-3, 3), random.uniform(-1, 1), random.uniform(-3, 3));
    if (random.index(4) == 0) link.parent = "l" + std::to_string(random.index(i));
    arm.links.push_back(link);
  }
  arm.tools.push_back({.name = "tip", .tip = {Matrix3::Identity(), vector(0.2)}});
  return Arm::build(arm);
}

/// A unit vector, any way.
inline Vector3 random_direction(RandomStream& random) {
  for (;;) {
    const Vector3 v(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1));
    if (v.norm() < 1.0 && v.norm() > 0.1) return v.normalized();
  }
}

/// How far two poses are apart: metres and radians.
struct PoseError {
  double position;
  double angle;
};
inline PoseError error_between(const Pose& a, const Pose& b) {
  return {(a.position - b.position).norm(),
          rotation_vector(a.rotation * b.rotation.transpose()).norm()};
}

inline Posture random_posture(RandomStream& random, const Arm& arm) {
  return random.between(arm.limits().lower, arm.limits().upper);
}

inline Body box_body(const std::string& name, const Vector3& size, const Vector3& at) {
  return {.name = name, .at = Pose::at(at), .parts = {{.shape = Box{size}}}};
}

/// Turned any way, up to `spread` from the origin along each axis.
inline Pose random_pose(RandomStream& random, double spread) {
  const auto number = [&](double most) { return random.uniform(-most, most); };
  return {rotation_from_rpy(number(3.1), number(1.5), number(3.1)),
          {number(spread), number(spread), number(spread)}};
}

}  // namespace er::test
