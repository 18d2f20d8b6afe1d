#include "elbowroom/dynamics/gravity.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/kinematics/forward.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::test;

namespace {

// The height of all mass times its weight, J.
double potential(const Arm& arm, const Posture& q) {
  const auto poses = link_poses(arm, q);
  double sum = 0.0;
  for (std::size_t i = 0; i < poses.size(); ++i)
    sum += arm.links()[i].inertial.mass * 9.80665 * (poses[i] * arm.links()[i].inertial.centre).z();
  return sum;
}

}  // namespace

TEST_CASE("what holds an arm still is the growth of its potential energy") {
  RandomStream random(311);
  for (int n = 0; n < 20; ++n) {
    ArmDescription description = random_arm(random, 9).description();
    for (Link& link : description.links) {
      link.inertial.mass = random.uniform(0.5, 3.0);
      link.inertial.centre = {random.uniform(-0.1, 0.1), random.uniform(-0.1, 0.1), 0.05};
    }
    const Arm arm = Arm::build(description);
    CHECK(states_masses(arm));
    const Posture q = random_posture(random, arm);
    const Posture load = gravity_load(arm, q);
    for (int k = 0; k < arm.dof(); ++k) {
      constexpr double kStep = 1e-6;
      Posture up = q, down = q;
      up[k] += kStep;
      down[k] -= kStep;
      CHECK(load[k] ==
            Approx((potential(arm, up) - potential(arm, down)) / (2 * kStep)).margin(1e-6));
    }
  }
  CHECK_FALSE(states_masses(planar_arm()));
  // A level bar of 2 kg whose middle is 200 mm out: 2 x 9.80665 x 0.2.
  ArmDescription bar{.name = "bar",
                     .links = {{.name = "base"}, turning("bar", {0, 0, 0}, -Vector3::UnitY())}};
  bar.links[1].inertial = {.mass = 2.0, .centre = {0.2, 0, 0}};
  CHECK(gravity_load(Arm::build(bar), values({0.0}))[0] == Approx(3.92266));
}
