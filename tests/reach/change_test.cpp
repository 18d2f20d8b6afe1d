#include "elbowroom/reach/change.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "support/cells.hpp"

using namespace er;
using Catch::Contains;
using test::values;

TEST_CASE("a change of one joint, and of one coordinate, shows in all the others") {
  const Arm arm = test::wrist_arm();
  const Tool& tool = arm.tool("tip");
  const Posture q = values({0.1, 0.2, 0.3, 0.4, 0.5, 0.6});
  const auto joint = effect_of(arm, tool, q, read_change(arm, "l2_to_l3 + 5 deg"));
  REQUIRE(joint);
  CHECK(joint->after[2] == Approx(0.3 + 0.0872664626));
  CHECK((joint->tip_after.position - tool_pose(arm, tool, joint->after).position).norm() < 1e-12);

  const Pose frame{rotation_about(Vector3::UnitZ(), 0.5), {0.1, 0.2, 0.3}};
  const auto tip = effect_of(arm, tool, q, read_change(arm, "y - 10 mm"), frame);
  REQUIRE(tip);
  const Vector3 moved = tip->tip_after.position - tip->tip_before.position;
  CHECK((moved - Vector3(0, -0.01, 0)).norm() < 1e-7);
  CHECK((tip->tip_after.rotation - tip->tip_before.rotation).norm() < 1e-7);
  CHECK((tip->after - q).cwiseAbs().maxCoeff() < 0.2);  // the same branch
  CHECK_THAT(tip->report(arm), Contains("-10.000 mm") && Contains("l4_to_l5"));

  const auto yaw = effect_of(arm, tool, q, read_change(arm, "yaw + 3 deg"));
  REQUIRE(yaw);
  CHECK((yaw->tip_after.position - yaw->tip_before.position).norm() < 1e-7);
  CHECK(rotation_vector(yaw->tip_after.rotation * yaw->tip_before.rotation.transpose()).z() ==
        Approx(0.0523598776).margin(1e-6));
}

TEST_CASE("a change that cannot be made is a no, and one that cannot be read is refused") {
  const Arm arm = test::wrist_arm();
  const Tool& tool = arm.tool("tip");
  const Posture q = values({0, 0, 0, 0, 0.3, 0});
  const auto far = effect_of(arm, tool, q, read_change(arm, "x + 3 m"));
  REQUIRE_FALSE(far);
  CHECK_THAT(far.reason().text, Contains("does not get there; the nearest it comes is"));
  const auto limit = effect_of(arm, tool, q, read_change(arm, "base_to_l1 + 200 deg"));
  REQUIRE_FALSE(limit);
  CHECK_THAT(limit.reason().text, Contains("would be at 200.00 deg, limit 171.89 deg"));
  CHECK_THROWS_WITH(read_change(arm, "base_to_l1"), Contains("by how much"));
  CHECK_THROWS_WITH(read_change(arm, "base_to_11 + 1 deg"), Contains("did you mean 'base_to_l1'?"));
  CHECK_THROWS_WITH(read_change(arm, "x + 1 deg"), Contains("expected a length"));
  CHECK_THROWS_AS(read_change(arm, "+ 1 deg"), InputError);
}
