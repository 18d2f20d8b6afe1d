#include "elbowroom/kinematics/forward.hpp"

#include <Eigen/Geometry>
#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>
#include <unsupported/Eigen/MatrixFunctions>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/target.hpp"
#include "support/allocations.hpp"
#include "support/cells.hpp"
#include "support/instruction_sets.hpp"

using namespace er;
using namespace er::test;

TEST_CASE("the planar arm is where the schoolbook says") {
  const Arm arm = planar_arm();
  RandomStream random(1);
  for (int i = 0; i < 100; ++i) {
    const double a = random.uniform(-3, 3), b = random.uniform(-3, 3);
    const Pose tip = tool_pose(arm, arm.tool("tip"), values({a, b}));
    CHECK(tip.position.x() == Approx(0.4 * std::cos(a) + 0.3 * std::cos(a + b)).margin(1e-14));
    CHECK(tip.position.y() == Approx(0.4 * std::sin(a) + 0.3 * std::sin(a + b)).margin(1e-14));
    CHECK(std::abs(std::remainder(rpy_of(tip.rotation).z() - (a + b), 2 * std::numbers::pi)) <
          1e-13);
    Jacobian j;
    tool_jacobian(arm, arm.tool("tip"), values({a, b}), j);
    CHECK(j(0, 0) == Approx(-tip.position.y()).margin(1e-14));
    CHECK(j(1, 0) == Approx(tip.position.x()).margin(1e-14));
    CHECK(j(0, 1) == Approx(-0.3 * std::sin(a + b)).margin(1e-14));
    CHECK(j(5, 1) == Approx(1.0).epsilon(1e-14));
  }
}

TEST_CASE("the six-axis arm at zero is the sum of its dimensions") {
  const Arm arm = wrist_arm();
  const Pose tip = tool_pose(arm, arm.tool("tip"), Posture::Zero(6));
  CHECK((tip.position - Vector3(0.04 + 0.15 + 0.24 + 0.065 + 0.1, 0, 0.16 + 0.18 + 0.40 + 0.03))
            .norm() < 1e-15);
  // A quarter turn of the waist takes x to y.
  const Pose turned =
      tool_pose(arm, arm.tool("tip"), values({std::numbers::pi / 2, 0, 0, 0, 0, 0}));
  CHECK((turned.position - Vector3(0, tip.position.x(), tip.position.z())).norm() < 1e-15);
}

TEST_CASE("a product of exponentials of screws gives the same poses for any arm") {
  // An independent formulation (R. Murray, Z. Li and S. Sastry, "A Mathematical Introduction to
  // Robotic Manipulation", 1994, section 3.2): screws at zero, matrix exponentials, one product.
  RandomStream random(21);
  for (int trial = 0; trial < 40; ++trial) {
    const Arm arm = random_arm(random, 8);
    const Posture q = random_posture(random, arm);
    const auto zero = link_poses(arm, Posture::Zero(arm.dof()));
    const auto poses = link_poses(arm, q);
    for (std::size_t l = 0; l < poses.size(); ++l) {
      Eigen::Matrix4d product = Eigen::Matrix4d::Identity();
      product.topLeftCorner<3, 3>() = zero[l].rotation;
      product.topRightCorner<3, 1>() = zero[l].position;
      for (int k = static_cast<int>(l); k >= 0;
           k = arm.links()[static_cast<std::size_t>(k)].parent_index) {
        const Link& link = arm.links()[static_cast<std::size_t>(k)];
        if (link.posture_index < 0) continue;
        const Pose& at = zero[static_cast<std::size_t>(k)];
        const Vector3 w = at.rotation * link.joint.axis;
        Eigen::Matrix4d screw = Eigen::Matrix4d::Zero();
        if (link.joint.kind == JointKind::revolute) {
          screw.topLeftCorner<3, 3>() << 0, -w.z(), w.y(), w.z(), 0, -w.x(), -w.y(), w.x(), 0;
          screw.topRightCorner<3, 1>() = -w.cross(at.position);
        } else {
          screw.topRightCorner<3, 1>() = w;
        }
        product = Eigen::Matrix4d((screw * q[link.posture_index]).exp()) * product;
      }
      CHECK((product.topLeftCorner<3, 3>() - poses[l].rotation).norm() < 1e-12);
      CHECK((product.topRightCorner<3, 1>() - poses[l].position).norm() < 1e-12);
    }
  }
}

TEST_CASE("the Jacobian is the derivative of the pose, by differences") {
  RandomStream random(22);
  for (int trial = 0; trial < 60; ++trial) {
    const Arm arm = random_arm(random, 9);
    const Tool& tool = arm.tool("tip");
    const Posture q = random_posture(random, arm);
    Jacobian j;
    const Pose tip = tool_jacobian(arm, tool, q, j);
    CHECK((tip.position - tool_pose(arm, tool, q).position).norm() < 1e-13);
    for (int k = 0; k < arm.dof(); ++k) {
      const double h = 1e-5;
      Posture plus = q, minus = q;
      plus[k] += h;
      minus[k] -= h;
      const Pose a = tool_pose(arm, tool, plus), b = tool_pose(arm, tool, minus);
      CHECK(((a.position - b.position) / (2 * h) - j.col(k).head<3>()).norm() < 1e-9);
      const Vector3 turn = rotation_vector(a.rotation * b.rotation.transpose()) / (2 * h);
      CHECK((turn - j.col(k).tail<3>()).norm() < 1e-9);
    }
    // From poses of links that are known, and as seen along any axes.
    Jacobian other;
    const Pose same = frame_jacobian(arm, link_poses(arm, q), tool.link_index, tool.tip, other);
    CHECK((same.rotation - tip.rotation).norm() + (same.position - tip.position).norm() < 1e-13);
    CHECK((other - j).cwiseAbs().maxCoeff() < 1e-13);
    const Matrix3 axes = rotation_from_rpy(random.uniform(-3, 3), 0.4, random.uniform(-3, 3));
    const Pose seen = tool_jacobian_along(axes, arm, tool, q, other);
    CHECK((axes * seen.rotation - tip.rotation).norm() < 1e-13);
    CHECK((axes * other.topRows<3>() - j.topRows<3>()).cwiseAbs().maxCoeff() < 1e-13);
    CHECK((axes * other.bottomRows<3>() - j.bottomRows<3>()).cwiseAbs().maxCoeff() < 1e-13);
  }
}

TEST_CASE("forward kinematics and the Jacobian are the same bits on every instruction set") {
  std::vector<Pose> first_poses;
  std::vector<Jacobian> first;
  test::on_each_instruction_set([&](const std::string& name) {
    INFO(name);
    RandomStream random(24);
    const bool is_first = first.empty();
    for (std::size_t trial = 0; trial < 20; ++trial) {
      const Arm arm = random_arm(random, 10);
      const Posture q = random_posture(random, arm);
      Jacobian j;
      tool_jacobian(arm, arm.tool("tip"), q, j);
      const Pose last = link_poses(arm, q).back();
      if (is_first) {
        first.push_back(j);
        first_poses.push_back(last);
      }
      CHECK(j == first[trial]);
      CHECK(last.rotation == first_poses[trial].rotation);
      CHECK(last.position == first_poses[trial].position);
    }
  });
}

TEST_CASE("tool pose and link poses agree for every link and tool") {
  RandomStream random(23);
  for (int trial = 0; trial < 30; ++trial) {
    // More links than are placed at a time, too, some of them on links placed before.
    const Arm arm = random_arm(random, trial % 3 == 0 ? 36 : 10);
    const Posture q = random_posture(random, arm);
    const auto poses = link_poses(arm, q);
    for (int l = 0; l < static_cast<int>(poses.size()); ++l) {
      const Pose own = frame_pose(arm, l, {}, q);
      const Pose& told = poses[static_cast<std::size_t>(l)];
      CHECK((own.rotation - told.rotation).norm() + (own.position - told.position).norm() < 1e-12);
    }
    for (const Tool& tool : arm.tools()) {
      const Pose expected = poses[static_cast<std::size_t>(tool.link_index)] * tool.tip;
      CHECK((expected.position - tool_pose(arm, tool, q).position).norm() < 1e-13);
      CHECK((expected.rotation - tool_pose(arm, tool, q).rotation).norm() < 1e-13);
    }
  }
}

TEST_CASE("forward kinematics and the Jacobian take nothing from the heap") {
  const Arm arm = wrist_arm();
  const Tool& tool = arm.tool("tip");
  const Posture q = Posture::Constant(6, 0.3);
  std::vector<Pose> poses(arm.links().size());
  Jacobian j;
  const long before = allocations();
  link_poses(arm, q, poses);
  const Pose a = tool_pose(arm, tool, q);
  const Pose b = tool_jacobian(arm, tool, q, j);
  const Pose c = frame_jacobian(arm, poses, tool.link_index, tool.tip, j);
  const long after = allocations();
  CHECK(after == before);
  CHECK((a.position - c.position).norm() < 1e-14);
  CHECK((a.position - b.position).norm() < 1e-14);
}

TEST_CASE("a tolerance is above zero, and a place is finite") {
  CHECK_THROWS_WITH(Target{}.place("tip", {}).within(0.0, 1.0),
                    Catch::StartsWith("a tolerance must be above zero, found 0 mm"));
  CHECK_THROWS_AS(Target{}.place("tip", Pose::at({0, std::nan(""), 0})), InputError);
}
