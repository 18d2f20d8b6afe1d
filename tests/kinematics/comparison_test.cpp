#include "elbowroom/kinematics/comparison.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/kinematics/chain_steps.hpp"
#include "support/cells.hpp"

using namespace er;
using Catch::Contains;

namespace {

std::string differences(const Arm& a, const ArmDescription& b) {
  std::string all;
  for (const Difference& one : compare(a, Arm::build(b)).differences)
    all += one.subject + ": " + one.text + "\n";
  return all;
}

}  // namespace

TEST_CASE("two descriptions of one arm are the same, whatever the names and the mount") {
  const Arm arm = test::wrist_arm();
  ArmDescription other = arm.description();
  other.name = "other";
  other.mount = Pose::at({1, 2, 3});
  for (Link& link : other.links) link.joint.name += "_b";
  const Comparison comparison = compare(arm, Arm::build(other));
  CHECK(comparison.same());
  CHECK(comparison.worst_position < 1e-12);
  CHECK_THAT(comparison.report(arm, Arm::build(other)),
             Contains("yes: 'six' and 'other' are the same"));
}

TEST_CASE("each difference is named with its amount") {
  const Arm arm = test::wrist_arm();
  ArmDescription d = arm.description();
  d.links[3].joint.origin.position.x() += 0.003;
  CHECK_THAT(differences(arm, d), Contains("joint l2_to_l3: its axis lies 3.0000 mm off") &&
                                      Contains("tool tip: up to"));
  d = arm.description();
  d.links[2].joint.axis = -d.links[2].joint.axis;
  CHECK_THAT(differences(arm, d), Contains("joint l1_to_l2: it counts the other way"));
  d = arm.description();
  d.links[5].joint.origin.rotation = rotation_about(Vector3::UnitX(), 0.01);
  CHECK_THAT(differences(arm, d), Contains("joint l4_to_l5: its axis is tilted by 0.5730 deg"));
  d = arm.description();
  d.links[1].joint.limits.upper = 2.5;
  d.links[1].joint.limits.torque = 50;
  d.links[1].joint.limits.jerk = std::numeric_limits<double>::infinity();
  CHECK_THAT(differences(arm, d), Contains("upper limit 171.89 deg against 143.24 deg") &&
                                      Contains("torque not stated against 50 N m") &&
                                      Contains("jerk 4583.66 deg/s^3 against not stated"));
  d = arm.description();
  d.links[4].inertial.mass = 2.0;
  CHECK_THAT(differences(arm, d), Contains("what joint l3_to_l4 carries: mass 0 kg against 2 kg"));
  d = arm.description();
  d.links.pop_back();
  CHECK_THAT(differences(arm, d), Contains("6 moving joints against 5"));
}

TEST_CASE("the steps of a chain multiply up to the tool's pose") {
  RandomStream random(31);
  for (int n = 0; n < 30; ++n) {
    const Arm arm = test::random_arm(random, 7);
    const Posture q = test::random_posture(random, arm);
    const auto steps = chain_steps(arm, arm.tool("tip"), q);
    Pose product;
    for (const ChainStep& step : steps) {
      product = product * step.own;
      CHECK((product.position - step.total.position).norm() < 1e-12);
    }
    const Pose tip = tool_pose(arm, arm.tool("tip"), q);
    CHECK((steps.back().total.position - tip.position).norm() < 1e-12);
    CHECK((steps.back().total.rotation - tip.rotation).norm() < 1e-12);
  }
}

TEST_CASE("the steps of a chain are told in words and figures") {
  const Arm arm = test::planar_arm();
  const std::string text =
      text_of(chain_steps(arm, arm.tool("tip"), test::values({std::acos(-1.0) / 6, 0})));
  CHECK_THAT(text, Contains("2. joint base_to_upper: turns 30.00 deg about z"));
  CHECK_THAT(text, Contains("rotation: Rz(30.000 deg)"));
  CHECK_THAT(text, Contains("4. tip of tip"));
  CHECK_THAT(text, Contains("606.218 mm"));  // 0.7 cos 30
}
