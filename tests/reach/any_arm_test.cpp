// Arms of every make: a target that a posture of the arm does must be met, and where the answer
// says that it is complete, by that posture, too.
#include <catch2/catch.hpp>

#include "elbowroom/base/random.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/reach/reach.hpp"
#include "support/any_arm.hpp"
#include "support/postures.hpp"
#include "support/sanitized.hpp"

using namespace er;

TEST_CASE("any arm: what a posture does is met, and by that posture where the answer is complete") {
  RandomStream random(1);
  int complete = 0;
  const int rounds = test::kSanitized ? 2 : 50;
  for (int n = 0; n < rounds; ++n)
    for (int joints = 1; joints <= 8; ++joints) {
      const Cell cell = Cell::build({.arms = {test::some_arm(random, joints)}});
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
