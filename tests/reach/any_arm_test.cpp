// Arms of every make, with the right angles, meeting and parallel axes that real ones have and with
// zeros anywhere: a target that a posture of the arm does must be met, and where the answer says
// that it is complete, by that posture, too.
#include <catch2/catch.hpp>
#include <numbers>

#include "elbowroom/base/random.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/reach/reach.hpp"
#include "support/cells.hpp"
#include "support/postures.hpp"
#include "support/sanitized.hpp"

using namespace er;

namespace {

Vector3 some_axis(RandomStream& random) {
  const int choice = random.index(4);
  return choice < 3 ? Vector3(Vector3::Unit(choice)) : test::random_direction(random);
}

Vector3 some_offset(RandomStream& random) {
  switch (random.index(4)) {
    case 0:
      return Vector3::Zero();
    case 1:
      return {0, 0, random.uniform(0.1, 0.5)};
    case 2:
      return {random.uniform(0.05, 0.4), 0, 0};
    default:
      return 0.4 * test::random_direction(random);
  }
}

Matrix3 some_turn(RandomStream& random) {
  const auto angle = [&] {
    return random.index(3) == 0 ? random.uniform(-std::numbers::pi, std::numbers::pi)
                                : std::numbers::pi / 2 * random.index(4);
  };
  return rotation_from_rpy(angle(), 0, angle());
}

// One serial arm: joints about some axes; some wrists and shoulders that are points.
Arm some_arm(RandomStream& random, int joints) {
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
    Link link = slides ? test::sliding(name, at, some_axis(random))
                       : test::turning(name, at, some_axis(random));
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

}  // namespace

TEST_CASE("any arm: what a posture does is met, and by that posture where the answer is complete") {
  RandomStream random(1);
  int complete = 0;
  const int rounds = test::kSanitized ? 2 : 50;
  for (int n = 0; n < rounds; ++n)
    for (int joints = 1; joints <= 8; ++joints) {
      const Cell cell = Cell::build({.arms = {some_arm(random, joints)}});
      const Arm& arm = cell.arm("any");
      const CellQuery query(cell, "any");
      const Posture q = n % 2 == 0 ? random.between(arm.limits().lower, arm.limits().upper)
                                   : test::hard_posture(random, arm);
      const Pose tip = tool_pose(arm, arm.tool("tip"), q);
      for (int kind = 0; kind < 4; ++kind) {
        INFO("round " << n << ", " << joints << " joints, kind " << kind);
        AtPlace place{.at = tip};
        if (kind == 1 || kind == 2) place.turn = Band::free();
        if (kind == 2) place.tilt = kAnyTilt;
        if (kind == 3) place.along = {Band::free(), Band{}, Band{}};
        Target target;
        target.require({.holds = place});
        const auto answer = reach(query, target);
        REQUIRE(answer);
        const TargetOnArm on_arm(arm, target);
        bool is_among = false;
        bool is_one_of_many = false;
        for (const ReachSolution& one : answer->solutions) {
          CHECK(on_arm.is_met(one.posture));
          CHECK((one.posture.array() >= arm.limits().lower.array() - 1e-9).all());
          CHECK((one.posture.array() <= arm.limits().upper.array() + 1e-9).all());
          is_among = is_among || (one.posture - q).cwiseAbs().maxCoeff() < 1e-4;
          is_one_of_many = is_one_of_many || !one.free_joint.empty();
        }
        if (!answer->complete || is_one_of_many) continue;
        ++complete;
        CHECK(is_among);
      }
    }
  CHECK(complete > rounds);
}
