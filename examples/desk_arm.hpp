// A desk arm of four joints, described in code: what the examples move about.
#pragma once

#include <elbowroom/model/cell.hpp>

#include <numbers>

inline er::Link turning_link(const char* name, const er::Vector3& at, const er::Vector3& axis,
                             const er::Part& part) {
  using namespace er::literals;
  return {.name = name,
          .joint = {.kind = er::JointKind::revolute,
                    .origin = er::Pose::at(at),
                    .axis = axis,
                    .limits = {.lower = -150.0_deg,
                               .upper = 150.0_deg,
                               .velocity = 120.0_deg,
                               .acceleration = 400.0_deg,
                               .jerk = 4000.0_deg}},
          .parts = {part}};
}

inline er::Arm desk_arm() {
  using er::Vector3;
  // Capsules lie along z; the arm's links lie along x, so they are turned about y.
  const er::Matrix3 along_x = er::rotation_about(Vector3::UnitY(), std::numbers::pi / 2);
  const auto rod = [&](double length) {
    return er::Part{er::Capsule{0.02, length}, {along_x, Vector3(length / 2, 0, 0)}};
  };
  const er::Link base{.name = "base",
                      .parts = {{er::Cylinder{0.06, 0.1}, er::Pose::at({0, 0, 0.05})}}};
  const er::Posture rest = er::Posture::Zero(4);
  return er::Arm::build({.name = "desk_arm",
                         .links = {base,
                                   turning_link("turret", {0, 0, 0.1}, Vector3::UnitZ(),
                                                {er::Sphere{0.05}, er::Pose::at({0, 0, 0.05})}),
                                   turning_link("upper", {0, 0, 0.1}, Vector3::UnitY(), rod(0.3)),
                                   turning_link("fore", {0.3, 0, 0}, Vector3::UnitY(), rod(0.25)),
                                   turning_link("hand", {0.25, 0, 0}, Vector3::UnitY(), rod(0.08))},
                         .tools = {{.name = "tip", .tip = er::Pose::at({0.1, 0, 0})}},
                         .stances = {{"rest", rest}}});
}
