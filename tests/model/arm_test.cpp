#include "elbowroom/model/arm.hpp"

#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::test;

namespace {

ArmDescription good_arm() {
  return {.name = "arm",
          .links = {{.name = "base"},
                    turning("one", {0, 0, 0}, {0, 0, 2}),
                    turning("two", {1, 0, 0}, {0, 1, 0})}};
}

std::string fault(const ArmDescription& description) {
  try {
    Arm::build(description);
  } catch (const InputError& error) {
    return error.subject() + " | " + error.message();
  }
  return "no error";
}

}  // namespace

TEST_CASE("an arm names its joints, normalises its axes and counts what moves") {
  const Arm arm = Arm::build(good_arm());
  CHECK(arm.dof() == 2);
  CHECK(arm.links()[1].joint.name == "base_to_one");
  CHECK(arm.links()[2].parent == "one");
  CHECK(arm.moving_joint(0).axis == Vector3::UnitZ());
  CHECK(arm.moving_link(1) == 2);
  CHECK(arm.limits().velocity[1] == 2.0);
}

TEST_CASE("each fault of a description is named with its key") {
  ArmDescription d = good_arm();
  d.links.clear();
  CHECK(fault(d) == "links | an arm needs at least one link");
  d = good_arm();
  d.links[2].name = "one";
  CHECK(fault(d) == "links[2].name | the name 'one' is used twice");
  d = good_arm();
  d.links[2].name = "a b";
  CHECK(fault(d) == "links[2].name | 'a b' is no good as a name");
  d = good_arm();
  d.links[2].parent = "three";
  CHECK(fault(d) == "links[2].parent | unknown parent link (it must come earlier) 'three'");
  d = good_arm();
  d.links[1].joint.axis.setZero();
  CHECK(fault(d) == "links[1].joint.axis | the axis of joint 'base_to_one' has no direction");
  d = good_arm();
  d.links[1].joint.axis[0] = std::nan("");
  CHECK(fault(d) == "links[1].joint.axis | the axis of joint 'base_to_one' has no direction");
  d = good_arm();
  std::swap(d.links[2].joint.limits.lower, d.links[2].joint.limits.upper);
  CHECK(fault(d) ==
        "links[2].joint.range | the range of joint 'one_to_two' is the wrong way round: lower "
        "171.89 deg "
        "is above upper -171.89 deg");
  d = good_arm();
  d.links[2].joint.limits.upper = std::nan("");
  CHECK(fault(d) == "links[2].joint.range | a limit is not a number");
  d = good_arm();
  d.links[1].joint.limits.velocity = 0.0;
  CHECK(fault(d) ==
        "links[1].joint.velocity | the velocity limit of joint 'base_to_one' must be above zero");
  d = good_arm();
  d.links[0].joint.kind = JointKind::revolute;
  CHECK(fault(d) == "links[0].joint | the first link is the base and cannot move");
  d = good_arm();
  d.links[1].parts = {{.shape = Sphere{-1.0}}};
  CHECK(fault(d) ==
        "links[1].parts[0] | the radius of a sphere must be above zero, found -1000 mm");
  d = good_arm();
  d.tools = {{.name = "tip", .link = "tow"}};
  CHECK(fault(d) == "tools[0].link | unknown link 'tow'");
  d = good_arm();
  d.stances = {{"home", values({1.0})}};
  CHECK(fault(d) == "stances[0] | stance 'home' has 1 value, arm 'arm' has 2 moving joints");
  d = good_arm();
  d.stances = {{"home", values({1.0, std::nan("")})}};
  CHECK(fault(d) == "stances[0] | stance 'home' has a value that is not finite");
  d = good_arm();
  for (int i = 0; i < kMaxJoints; ++i)
    d.links.push_back(turning("more" + std::to_string(i), {0, 0, 0}, {0, 0, 1}));
  CHECK(fault(d) == "links | 34 moving joints; one arm may have at most 32");
}

TEST_CASE("unknown names are answered with the nearest") {
  const Arm arm = wrist_arm();
  CHECK_THROWS_WITH(arm.tool("tpi"), Catch::Contains("did you mean 'tip'?"));
  CHECK_THROWS_WITH(
      arm.stance("home"),
      "unknown stance of arm 'six' 'home'\n  there is no stance of arm 'six' here at all");
  CHECK_THROWS_WITH(arm.link_index("l9"), Catch::Contains("unknown link of arm 'six' 'l9'"));
  CHECK(arm.find_stance("home") == nullptr);
  CHECK(arm.tool("").name == "tip");
  CHECK_THROWS_WITH(Arm::build(good_arm()).tool(""),
                    Catch::Contains("has no tool, so there is nothing to place"));
}

TEST_CASE("the first joint out of its range is named with its value and limit") {
  const Arm arm = planar_arm();
  CHECK(arm.limit_breach(values({0.0, 3.0})).empty());
  CHECK(arm.limit_breach(values({0.0, 3.1})) ==
        "joint upper_to_fore would be at 177.62 deg, limit 171.89 deg");
  CHECK(arm.limit_breach(values({-4.0, 9.0})) ==
        "joint base_to_upper would be at -229.18 deg, limit -171.89 deg");
}

TEST_CASE("sizes, volumes and bounding boxes of shapes") {
  using std::numbers::pi;
  CHECK(volume(Box{{1, 2, 3}}) == 6.0);
  CHECK(volume(Sphere{2.0}) == Approx(32.0 / 3.0 * pi));
  CHECK(volume(Cylinder{2.0, 3.0}) == Approx(12.0 * pi));
  CHECK(volume(Capsule{1.0, 3.0}) == Approx(3.0 * pi + 4.0 / 3.0 * pi));
  CHECK(bounding_radius(Box{{2, 3, 6}}) == 3.5);
  CHECK(bounding_radius(Cylinder{3.0, 8.0}) == 5.0);
  CHECK(bounding_radius(Capsule{1.0, 4.0}) == 3.0);
  CHECK_THROWS_WITH(check_shape(Box{{0.1, 0.0, 0.1}}, "x"),
                    "x: the size of a box must be above zero, found 0 mm");
  CHECK_THROWS_AS(check_shape(Capsule{0.1, std::nan("")}, "x"), InputError);
}

TEST_CASE("the half extent of a turned shape is that of its surface points") {
  RandomStream random(4);
  const std::vector<Shape> shapes{Box{{0.2, 0.3, 0.5}}, Sphere{0.2}, Cylinder{0.1, 0.6},
                                  Capsule{0.1, 0.5}};
  for (const Shape& shape : shapes) {
    const Matrix3 r =
        rotation_from_rpy(random.uniform(-3, 3), random.uniform(-1, 1), random.uniform(-3, 3));
    Vector3 most = Vector3::Zero();
    // Support points of the shape, found by brute force over its own parametrisation.
    for (int i = 0; i < 200000; ++i) {
      Vector3 p;
      const double a = random.uniform(0, 2 * std::numbers::pi), up = random.uniform(-1, 1);
      const Vector3 ball(std::sqrt(1 - up * up) * std::cos(a), std::sqrt(1 - up * up) * std::sin(a),
                         up);
      if (const auto* box = std::get_if<Box>(&shape))
        p = 0.5 * box->size.cwiseProduct(ball.cwiseSign());
      else if (const auto* sphere = std::get_if<Sphere>(&shape))
        p = sphere->radius * ball;
      else if (const auto* c = std::get_if<Cylinder>(&shape))
        p = Vector3(c->radius * std::cos(a), c->radius * std::sin(a),
                    std::copysign(c->length / 2, up));
      else if (const auto* k = std::get_if<Capsule>(&shape))
        p = k->radius * ball + Vector3(0, 0, std::copysign(k->length / 2, up));
      most = most.cwiseMax((r * p).cwiseAbs());
    }
    CHECK((half_extent(shape, r) - most).minCoeff() > -1e-12);
    CHECK((half_extent(shape, r) - most).maxCoeff() < 2e-3);
  }
}

TEST_CASE("the end of an arm is its first tool, or its last link") {
  ArmDescription with{.name = "a", .links = planar_arm().links(), .tools = planar_arm().tools()};
  CHECK(Arm::build(with).end_tool().name == "tip");
  CHECK(Arm::build(with).end_tool().tip.position.x() == 0.3);
  with.tools.clear();
  const Arm bare = Arm::build(with);
  CHECK(bare.end_tool().name == "fore");
  CHECK(bare.end_tool().link_index == 2);
  CHECK(bare.end_tool().tip.position.norm() == 0.0);
  CHECK(bare.find_moving_joint(bare.moving_joint(1).name) == 1);
  CHECK(bare.find_moving_joint("nobody") == -1);
}
