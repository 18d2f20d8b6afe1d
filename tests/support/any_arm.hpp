// Serial arms of every make, with the right angles, meeting and parallel axes that real ones have,
// and with zeros anywhere.
#pragma once

#include <numbers>
#include <string>

#include "support/cells.hpp"

namespace er::test {

inline Vector3 some_axis(RandomStream& random) {
  const int choice = random.index(4);
  return choice < 3 ? Vector3(Vector3::Unit(choice)) : random_direction(random);
}

inline Vector3 some_offset(RandomStream& random) {
  switch (random.index(4)) {
    case 0:
      return Vector3::Zero();
    case 1:
      return {0, 0, random.uniform(0.1, 0.5)};
    case 2:
      return {random.uniform(0.05, 0.4), 0, 0};
    default:
      return 0.4 * random_direction(random);
  }
}

inline Matrix3 some_turn(RandomStream& random) {
  const auto angle = [&] {
    return random.index(3) == 0 ? random.uniform(-std::numbers::pi, std::numbers::pi)
                                : std::numbers::pi / 2 * random.index(4);
  };
  return rotation_from_rpy(angle(), 0, angle());
}

/// One serial arm: joints about some axes; some wrists and shoulders that are points.
inline Arm some_arm(RandomStream& random, int joints) {
  ArmDescription arm{.name = "any"};
  arm.links.push_back({.name = "base"});
  const bool has_shoulder = joints == 7 || random.index(3) == 0;
  const bool has_wrist = joints == 7 || random.index(2) == 0;
  for (int i = 0; i < joints; ++i) {
    const std::string name = "l" + std::to_string(i + 1);
    const bool in_point =
        (has_shoulder && (i == 1 || i == 2) && joints > 5) || (has_wrist && i >= joints - 2);
    const bool slides = !in_point && random.index(10) == 0;
    const Vector3 at = in_point ? Vector3(Vector3::Zero()) : some_offset(random);
    Link link =
        slides ? sliding(name, at, some_axis(random)) : turning(name, at, some_axis(random));
    link.joint.origin.rotation = some_turn(random);
    if (!slides) {
      const double ranges[] = {1.0, 2.0, 3.1, 4.5};
      link.joint.limits.lower = -ranges[random.index(4)];
      link.joint.limits.upper = ranges[random.index(4)];
    }
    arm.links.push_back(link);
  }
  arm.tools.push_back({.name = "tip", .tip = {some_turn(random), some_offset(random)}});
  return Arm::build(arm);
}

}  // namespace er::test
