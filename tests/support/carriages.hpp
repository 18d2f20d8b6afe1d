// Balls on three slides: arms of which everything is plain to see.
#pragma once

#include <numbers>
#include <string>

#include "elbowroom/routine/routine.hpp"
#include "support/cells.hpp"

namespace er::test {

/// A ball on three slides, which hangs a tool down.
inline Arm carriage(const std::string& name, const Posture& home) {
  const auto slide = [](const std::string& of, const Vector3& axis, std::vector<Part> parts = {}) {
    Link link = sliding(of, Vector3::Zero(), axis, std::move(parts));
    link.joint.name = of;
    link.joint.limits.lower = -1.0;
    link.joint.limits.upper = 1.0;
    return link;
  };
  return Arm::build({.name = name,
                     .links = {{.name = "base"},
                               slide("x", Vector3::UnitX()),
                               slide("y", Vector3::UnitY()),
                               slide("z", Vector3::UnitZ(), {{.shape = Sphere{0.04}}})},
                     .tools = {{.name = "tip",
                                .tip = {rotation_from_rpy(std::numbers::pi, 0, 0), {0, 0, -0.06}}}},
                     .stances = {{"home", home},
                                 {"left", values({-0.3, 0, 0})},
                                 {"right", values({0.3, 0, 0})},
                                 {"far", values({0.6, 0.6, 0})}}});
}

/// Two of them, a block on a table to the left, and room for it to the right.
inline Cell carriages() {
  Body table{.name = "table", .parts = {{.shape = Box{{2.0, 2.0, 0.02}}}}};
  table.at = Pose::at({0, 0, -0.13});
  Body block{.name = "block", .parts = {{.shape = Box{{0.04, 0.04, 0.04}}}}};
  block.at = Pose::at({-0.3, 0, -0.1});
  block.grasps = {
      {.name = "above", .tip = {rotation_from_rpy(std::numbers::pi, 0, 0), {0, 0, 0.02}}}};
  return Cell::build(
      {.name = "carriages",
       .arms = {carriage("one", values({-0.3, 0, 0})), carriage("two", values({0.3, 0, 0}))},
       .fixtures = {table},
       .pieces = {block},
       .contacts = {{"one.z", "block"}, {"two.z", "block"}}});
}

/// A free move of an arm to a stance.
inline Step go(const std::string& arm, const std::string& stance,
               const std::string& together = {}) {
  Step step{.name = arm + " " + stance, .arm = arm, .action = FreeMove{{AtStance{stance}}}};
  step.together = together;
  return step;
}

}  // namespace er::test
