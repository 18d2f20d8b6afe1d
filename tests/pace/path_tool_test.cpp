// How a point of an arm moves along a path, against second differences of where it is.
#include "elbowroom/pace/path_tool.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/kinematics/forward.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::test;

namespace {

void check(const Arm& arm, RandomStream& random) {
  const int link = static_cast<int>(arm.links().size()) - 1;
  const Vector3 tip = 0.2 * random_direction(random);
  const Posture position = random_posture(random, arm);
  const Posture slope = random.between(Posture::Constant(arm.dof(), -1), Posture::Ones(arm.dof()));
  const Posture curvature =
      random.between(Posture::Constant(arm.dof(), -2), Posture::Constant(arm.dof(), 2));
  const auto at = [&](double s) -> Vector3 {
    const Posture q = position + s * slope + 0.5 * s * s * curvature;
    return frame_pose(arm, link, Pose::at(tip), q).position;
  };
  constexpr double kStep = 1e-3;
  // Of fourth order: seven places fewer than the step has.
  const Vector3 by_places[2] = {
      (8.0 * (at(kStep) - at(-kStep)) - (at(2 * kStep) - at(-2 * kStep))) / (12.0 * kStep),
      (16.0 * (at(kStep) + at(-kStep)) - (at(2 * kStep) + at(-2 * kStep)) - 30.0 * at(0.0)) /
          (12.0 * kStep * kStep)};
  const PathTool tool = path_tool(arm, link, tip, position, slope, curvature);
  CHECK((tool.slope - by_places[0]).norm() < 1e-8);
  CHECK((tool.curvature - by_places[1]).norm() < 1e-7);
}

}  // namespace

TEST_CASE("a point along a path: velocity and acceleration, whatever joints carry it") {
  RandomStream random(31);
  for (int n = 0; n < 100; ++n) {
    const Arm arm = random_arm(random, 3 + n % 8);
    if (arm.dof() == 0) continue;
    INFO(n);
    check(arm, random);
  }
}

TEST_CASE("a point along a path, where joints follow others") {
  RandomStream random(32);
  for (int n = 0; n < 20; ++n) {
    Link base{.name = "base"};
    ArmDescription description{.name = "any", .links = {base}};
    for (int i = 0; i < 4; ++i)
      description.links.push_back(turning("l" + std::to_string(i), 0.3 * random_direction(random),
                                          random_direction(random), {{.shape = Sphere{0.02}}}));
    const char* leaders[3] = {"base_to_l0", "l0_to_l1", "l1_to_l2"};
    description.links.back().joint.follow = {.joint = leaders[n % 3], .ratio = -1.5, .offset = 0.2};
    description.tools = {{.name = "tip"}};
    const Arm arm = Arm::build(description);
    REQUIRE(arm.dof() == 3);
    INFO(n);
    check(arm, random);
  }
}
