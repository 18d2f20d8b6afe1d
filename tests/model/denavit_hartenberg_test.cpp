#include "elbowroom/model/denavit_hartenberg.hpp"

#include <catch2/catch.hpp>
#include <numbers>

#include "elbowroom/kinematics/forward.hpp"
#include "support/cells.hpp"

using namespace er;
using std::numbers::pi;

namespace {

Eigen::Matrix4d matrix_of(const Pose& pose) {
  Eigen::Matrix4d m = Eigen::Matrix4d::Identity();
  m.topLeftCorner<3, 3>() = pose.rotation;
  m.topRightCorner<3, 1>() = pose.position;
  return m;
}

// The textbook's own matrices, written out (Siciliano et al., "Robotics", 2009, eq. 2.52; Craig,
// "Introduction to Robotics", eq. 3.6).
Eigen::Matrix4d standard_matrix(double theta, double d, double a, double alpha) {
  const double ct = std::cos(theta), st = std::sin(theta);
  const double ca = std::cos(alpha), sa = std::sin(alpha);
  Eigen::Matrix4d m;
  m << ct, -st * ca, st * sa, a * ct,  //
      st, ct * ca, -ct * sa, a * st,   //
      0, sa, ca, d,                    //
      0, 0, 0, 1;
  return m;
}

Eigen::Matrix4d modified_matrix(double theta, double d, double a, double alpha) {
  const double ct = std::cos(theta), st = std::sin(theta);
  const double ca = std::cos(alpha), sa = std::sin(alpha);
  Eigen::Matrix4d m;
  m << ct, -st, 0, a,                  //
      st * ca, ct * ca, -sa, -sa * d,  //
      st * sa, ct * sa, ca, ca * d,    //
      0, 0, 0, 1;
  return m;
}

Eigen::Matrix4d product(const DhTable& table, const Posture& q) {
  Eigen::Matrix4d m = matrix_of(table.base);
  for (std::size_t i = 0; i < table.rows.size(); ++i) {
    const DhRow& row = table.rows[i];
    const double value = (row.reversed ? -1.0 : 1.0) * q[static_cast<Eigen::Index>(i)];
    const double theta = row.theta + (row.kind == JointKind::revolute ? value : 0.0);
    const double d = row.d + (row.kind == JointKind::prismatic ? value : 0.0);
    m *= table.form == DhForm::standard ? standard_matrix(theta, d, row.a, row.alpha)
                                        : modified_matrix(theta, d, row.a, row.alpha);
  }
  return m * matrix_of(table.end);
}

DhTable random_table(RandomStream& random, DhForm form) {
  DhTable table;
  table.form = form;
  table.base = {rotation_from_rpy(0.3, -0.2, 1.0), {0.1, -0.2, 0.3}};
  table.end = {rotation_from_rpy(-0.3, 0.4, 0.7), {0.05, 0.0, 0.1}};
  for (int i = 0; i < 6; ++i) {
    DhRow row;
    row.theta = random.uniform(-pi, pi);
    row.d = random.uniform(-0.4, 0.4);
    row.a = random.uniform(-0.4, 0.4);
    row.alpha = random.index(3) == 0 ? 0.0 : random.uniform(-pi, pi);
    row.kind = random.index(4) == 0 ? JointKind::prismatic : JointKind::revolute;
    row.reversed = random.index(2) == 0;
    row.limits.lower = -3.0;
    row.limits.upper = 3.0;
    table.rows.push_back(row);
  }
  return table;
}

}  // namespace

TEST_CASE("a Denavit-Hartenberg table gives the arm of the textbook's matrices, in both forms") {
  RandomStream random(11);
  for (const DhForm form : {DhForm::standard, DhForm::modified}) {
    for (int n = 0; n < 40; ++n) {
      const DhTable table = random_table(random, form);
      const Arm arm = Arm::build(
          {.name = "dh", .links = links_from(table), .tools = {{.name = "tip", .tip = table.end}}});
      const Posture q = test::random_posture(random, arm);
      const Pose tip = tool_pose(arm, arm.tool("tip"), q);
      CHECK((matrix_of(tip) - product(table, q)).norm() < 1e-12);
    }
  }
}

TEST_CASE("the table of any chain gives that chain back") {
  RandomStream random(12);
  int tables = 0;
  for (int n = 0; n < 60; ++n) {
    const Arm arm = test::random_arm(random, 8);
    for (const DhForm form : {DhForm::standard, DhForm::modified}) {
      const auto table = dh_table_of(arm, arm.tool("tip"), form);
      if (!table) {
        CHECK(table.reason().cause == Cause::not_sayable);
        continue;
      }
      ++tables;
      const Arm back = Arm::build({.name = "dh",
                                   .mount = arm.mount(),
                                   .links = links_from(*table),
                                   .tools = {{.name = "tip", .tip = table->end}}});
      const Posture q = test::random_posture(random, arm);
      Posture on_chain(back.dof());  // the table has only the joints on the way to the tool
      for (int k = 0; k < back.dof(); ++k)
        for (int j = 0; j < arm.dof(); ++j)
          if (arm.moving_joint(j).name == back.moving_joint(k).name) on_chain[k] = q[j];
      const Pose expected = tool_pose(arm, arm.tool("tip"), q);
      const Pose found = tool_pose(back, back.tool("tip"), on_chain);
      CHECK((matrix_of(found) - matrix_of(expected)).norm() < 1e-9);
    }
  }
  CHECK(tables > 100);
}

TEST_CASE("the table of an arm with parallel and crossing axes is the one of its drawing") {
  const auto table =
      dh_table_of(test::wrist_arm(), test::wrist_arm().tool("tip"), DhForm::standard);
  REQUIRE(table);
  const auto& rows = table->rows;
  REQUIRE(rows.size() == 6);
  // Waist to shoulder: 40 mm ahead, 340 mm up, a quarter turn; upper arm 400 mm.
  CHECK(rows[0].d == Approx(0.34));
  CHECK(rows[0].a == Approx(0.04));
  CHECK(std::abs(rows[0].alpha) == Approx(pi / 2));
  CHECK(rows[1].a == Approx(0.4));
  CHECK(rows[1].alpha == Approx(0.0).margin(1e-12));
  CHECK(std::abs(rows[2].a) == Approx(0.03));
  CHECK(std::abs(rows[3].d) == Approx(0.39));
  CHECK(rows[4].a == Approx(0.0).margin(1e-12));
  CHECK(text_of(*table).find("340.000") != std::string::npos);
}

TEST_CASE("a follower cannot be said in a table") {
  ArmDescription d;
  d.name = "a";
  d.links = {{.name = "base"},
             test::turning("one", {0, 0, 0}, Vector3::UnitZ()),
             test::turning("two", {0.1, 0, 0}, Vector3::UnitZ())};
  d.links[2].joint.follow = {.joint = "base_to_one", .ratio = -1.0};
  d.tools = {{.name = "tip"}};
  const Arm arm = Arm::build(d);
  const auto table = dh_table_of(arm, arm.tool("tip"), DhForm::modified);
  REQUIRE_FALSE(table);
  CHECK(table.reason().text.find("joint one_to_two follows joint base_to_one") !=
        std::string::npos);
}
