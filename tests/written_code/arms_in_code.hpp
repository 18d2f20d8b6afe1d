// The arms whose kinematics are written out as code and compiled: the shipped ones, and every make.
#pragma once

#include "elbowroom/files/cell_file.hpp"
#include "support/any_arm.hpp"
#include "support/demo.hpp"

namespace er::test {

inline Arm renamed(const Arm& arm, const std::string& name) {
  ArmDescription description = arm.description();
  description.name = name;
  return Arm::build(description);
}

/// A tree: two tools on two branches, a joint that two others follow, one of these a slide along an
/// odd axis, a joint that carries no tool, a leaning mount; names that are no names in C++.
inline Arm branched_arm() {
  ArmDescription arm{.name = "2-armed",
                     .mount = {rotation_from_rpy(0.1, -0.2, 2.0), {0.1, -0.2, 0.9}}};
  arm.links = {{.name = "foot"},
               turning("mast", {0, 0, 0.3}, Vector3::UnitZ()),
               turning("left", {0, 0.2, 0.1}, Vector3(1, 2, -2) / 3),
               sliding("left_rod", {0.1, 0, 0.2}, Vector3(2, -1, 2) / 3),
               turning("right", {0, -0.2, 0.1}, -Vector3::UnitX()),
               turning("right_hand", {0.3, 0, 0}, Vector3::UnitY()),
               turning("ear", {0, 0, 0.1}, Vector3::UnitY())};
  arm.links[3].joint.follow = {"foot_to_mast", -0.25, 0.05};
  arm.links[4].parent = "mast";
  arm.links[5].joint.follow = {"foot_to_mast", 2.0, -0.3};
  arm.links[6].parent = "mast";
  arm.tools = {
      {.name = "rod", .link = "left_rod", .tip = {rotation_from_rpy(0.3, 0, 0), {0, 0, 0.1}}},
      {.name = "hand-1", .link = "right_hand", .tip = Pose::at({0.1, 0.02, 0})},
      {.name = "hand_1", .link = "right_hand"},
      {.name = "7th", .link = "foot"}};
  return Arm::build(arm);
}

inline std::vector<Arm> arms_in_code() {
  std::vector<Arm> arms;
  for (const char* cell : {"glaze", "bracken", "sedge"}) {
    const Cell loaded = load_cell(DEMO_DIR "/" + std::string(cell) + ".cell.yaml");
    arms.insert(arms.end(), loaded.arms().begin(), loaded.arms().end());
  }
  arms.push_back(branched_arm());
  arms.push_back(Arm::build({.name = "post", .links = {{.name = "foot"}}}));  // nothing moves
  RandomStream random(29);
  for (int i = 0; i < 24; ++i) {
    const Arm arm = i % 3 == 0 ? random_arm(random, 9) : some_arm(random, 1 + i % 8);
    arms.push_back(renamed(arm.mounted_at({some_turn(random), some_offset(random)}),
                           "any_" + std::to_string(i)));
  }
  return arms;
}

}  // namespace er::test
