// A desk arm of four joints, described in code: what the examples move about.
#pragma once

#include <elbowroom/collision/cell_query.hpp>
#include <elbowroom/model/arm_builder.hpp>

// A rod along x, from the joint to the next.
inline er::Part rod(double length) {
  return er::capsule_between(er::Vector3::Zero(), {length, 0, 0}, 0.02);
}

inline er::Arm desk_arm() {
  using namespace er::literals;
  const er::Vector3 y = er::Vector3::UnitY();
  const er::Vector3 z = er::Vector3::UnitZ();
  er::ArmBuilder arm("desk_arm");
  arm.base("base").part({er::Cylinder{60.0_mm, 100.0_mm}, er::Pose::at({0, 0, 50.0_mm})});
  const auto turning = [&](const char* link, const er::Vector3& axis,
                           const er::Vector3& at) -> er::ArmBuilder& {
    return arm.turns(link, axis)
        .at(at)
        .range(-150.0_deg, 150.0_deg)
        .speed(120.0_deg)
        .acceleration(400.0_deg)
        .jerk(4000.0_deg);
  };
  turning("turret", z, {0, 0, 100.0_mm}).part({er::Sphere{50.0_mm}, er::Pose::at({0, 0, 50.0_mm})});
  turning("upper", y, {0, 0, 100.0_mm}).part(rod(300.0_mm));
  turning("fore", y, {300.0_mm, 0, 0}).part(rod(250.0_mm));
  turning("hand", y, {250.0_mm, 0, 0}).part(rod(80.0_mm));
  return arm.tool("tip", er::Pose::at({100.0_mm, 0, 0})).stance("rest", {0, 0, 0, 0}).build();
}

// The arm beside a wall in front of it, and a posture on each side.
inline er::CellQuery desk_with_wall(double height) {
  const er::Body wall{.name = "wall",
                      .at = er::Pose::at({0.4, 0, 0.5 * height}),
                      .parts = {{er::Box{{0.5, 0.01, height}}}}};
  return {er::Cell::build({.arms = {desk_arm()}, .fixtures = {wall}}), "desk_arm"};
}

inline er::Posture beside_wall(double turret) {
  using namespace er::literals;
  er::Posture posture(4);
  posture << turret, -10.0_deg, 30.0_deg, 0.0;
  return posture;
}
