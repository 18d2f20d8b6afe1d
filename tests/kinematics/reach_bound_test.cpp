#include "elbowroom/kinematics/reach_bound.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/random.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "support/cells.hpp"

using namespace er;

TEST_CASE("no posture takes a point further than the bound, and one stretched out comes to it") {
  RandomStream random(1);
  for (int n = 0; n < 40; ++n) {
    const Arm arm = test::random_arm(random, 8);
    const Tool& tool = arm.tool("tip");
    const ReachBound bound = reach_bound(arm, tool.link_index, tool.tip.position);
    for (int i = 0; i < 100; ++i) {
      const Posture q = random.between(arm.limits().lower, arm.limits().upper);
      CHECK((tool_pose(arm, tool, q).position - bound.from).norm() <= bound.distance + 1e-12);
    }
  }
  const Arm flat = test::planar_arm();
  const ReachBound bound = reach_bound(flat, flat.end_link(), flat.tool("tip").tip.position);
  CHECK(bound.distance == Approx(0.7));
  CHECK(bound.from.norm() < 1e-12);
}
