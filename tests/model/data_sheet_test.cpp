#include "elbowroom/model/data_sheet.hpp"

#include <catch2/catch.hpp>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "support/cells.hpp"

using namespace er;
using std::numbers::pi;

namespace {

template <class Sheet>
Arm arm_of(const Sheet& sheet, const std::vector<SheetAxis>& axes = {}) {
  return Arm::build(
      {.name = "sheet", .links = links_from(sheet, axes), .tools = {{.name = "flange"}}});
}

Vector3 tip_at(const Arm& arm, std::initializer_list<double> degrees) {
  Posture q(arm.dof());
  Eigen::Index k = 0;
  for (const double d : degrees) q[k++] = d * pi / 180;
  return tool_pose(arm, arm.tool(""), q).position;
}

bool near(const Vector3& a, const Vector3& b) { return (a - b).norm() < 1e-12; }

const SixAxisSheet kSheet{.shoulder_height = 0.34,
                          .shoulder_offset = 0.04,
                          .upper_arm = 0.40,
                          .elbow_offset = 0.03,
                          .forearm = 0.39,
                          .flange = 0.065};

}  // namespace

TEST_CASE("six-axis data sheet: the flange is where the drawing has it") {
  const Arm arm = arm_of(kSheet);
  CHECK(near(tip_at(arm, {0, 0, 0, 0, 0, 0}), {0.04 + 0.39 + 0.065, 0, 0.34 + 0.40 + 0.03}));
  // Waist left by a quarter: ahead becomes left.
  CHECK(near(tip_at(arm, {90, 0, 0, 0, 0, 0}), {0, 0.495, 0.77}));
  // Shoulder forward by a quarter: upper arm ahead, forearm down, the offset points ahead.
  CHECK(near(tip_at(arm, {0, 90, 0, 0, 0, 0}), {0.04 + 0.40 + 0.03, 0, 0.34 - 0.455}));
  // Elbow down by a quarter: the forearm hangs, its offset points ahead.
  CHECK(near(tip_at(arm, {0, 0, 90, 0, 0, 0}), {0.04 + 0.03, 0, 0.74 - 0.455}));
  // Wrist down: the flange points to the floor.
  CHECK(near(tip_at(arm, {0, 0, 0, 0, 90, 0}), {0.04 + 0.39, 0, 0.77 - 0.065}));
  // Turning the forearm first turns the way the wrist bends: clockwise from behind, so to the left.
  CHECK(near(tip_at(arm, {0, 0, 0, 90, 90, 0}), {0.43, 0.065, 0.77}));
}

TEST_CASE("six-axis data sheet: it is the arm that the tests have by hand") {
  SixAxisSheet sheet = kSheet;
  sheet.turret_height = 0.16;
  sheet.forearm_start = 0.15;
  const Arm arm = arm_of(sheet);
  const Arm by_hand = test::wrist_arm();
  RandomStream random(3);
  for (int n = 0; n < 20; ++n) {
    const Posture q = test::random_posture(random, by_hand);
    const auto a = link_poses(arm, q);
    const auto b = link_poses(by_hand, q);
    for (std::size_t i = 0; i < a.size(); ++i)
      CHECK((a[i].position - b[i].position).norm() < 1e-12);
  }
}

TEST_CASE("data sheets: sides, zero posture and senses change what they say and nothing else") {
  SixAxisSheet sheet = kSheet;
  sheet.elbow_offset = -0.03;
  sheet.shoulder_offset = -0.04;
  CHECK(near(tip_at(arm_of(sheet), {0, 0, 0, 0, 0, 0}), {-0.04 + 0.455, 0, 0.74 - 0.03}));

  // At zero the upper arm lies ahead and the forearm still points ahead, its offset still above.
  sheet = kSheet;
  sheet.upper_arm_at_zero = Pointing::ahead;
  CHECK(near(tip_at(arm_of(sheet), {0, 0, 0, 0, 0, 0}), {0.04 + 0.40 + 0.455, 0, 0.34 + 0.03}));
  CHECK(near(tip_at(arm_of(sheet), {0, -90, 90, 0, 0, 0}), {0.495, 0, 0.77}));
  // Stretched up.
  sheet = kSheet;
  sheet.forearm_at_zero = Pointing::up;
  CHECK(near(tip_at(arm_of(sheet), {0, 0, 0, 0, 0, 0}), {0.04 - 0.03, 0, 0.74 + 0.455}));

  std::vector<SheetAxis> axes(6);
  axes[1].reversed = true;
  axes[4].zero = pi / 2;
  CHECK(near(tip_at(arm_of(kSheet, axes), {0, -90, 0, 0, -90, 0}), {0.47, 0, 0.34 - 0.455}));
}

TEST_CASE("data sheets of the other families") {
  const Arm seven = arm_of(SevenAxisSheet{.shoulder_height = 0.36,
                                          .upper_arm = 0.42,
                                          .elbow_offset = 0.02,
                                          .forearm = 0.40,
                                          .wrist_offset = 0.01,
                                          .flange = 0.12});
  CHECK(seven.dof() == 7);
  CHECK(near(tip_at(seven, {0, 0, 0, 0, 0, 0, 0}), {0.01, 0, 0.36 + 0.42 + 0.40 + 0.12}));
  CHECK(near(tip_at(seven, {0, 90, 0, 0, 0, 0, 0}), {0.94, 0, 0.36 - 0.01}));
  // Bent at the elbow: the axis lies 20 mm in front, so the forearm ends 20 mm above it.
  CHECK(near(tip_at(seven, {0, 0, 0, 90, 0, 0, 0}), {0.02 + 0.52, 0, 0.78 + 0.02 - 0.01}));

  const Arm scara = arm_of(
      ScaraSheet{.inner_arm = 0.3, .outer_arm = 0.25, .arm_height = 0.2, .flange_height = 0.15});
  CHECK(near(tip_at(scara, {0, 0, 0, 0}), {0.55, 0, 0.15}));
  CHECK(near(tip_at(scara, {90, 90, 0, 45}), {-0.25, 0.3, 0.15}));
  CHECK(tool_pose(scara, scara.tool(""), Posture::Zero(4)).rotation.col(2).z() == Approx(-1));

  const Arm planar =
      arm_of(PlanarSheet{.upright = true, .first_height = 0.1, .lengths = {0.2, 0.15}});
  CHECK(near(tip_at(planar, {0, 0}), {0, 0, 0.45}));
  CHECK(near(tip_at(planar, {90, -90}), {0.2, 0, 0.25}));
  const Arm level = arm_of(PlanarSheet{.upright = false, .lengths = {0.2, 0.15}});
  CHECK(near(tip_at(level, {0, 90}), {0.2, 0.15, 0}));
}

TEST_CASE("data sheets: what makes no sense is refused under its own key") {
  SixAxisSheet sheet = kSheet;
  sheet.forearm = 0.0;
  CHECK_THROWS_WITH(links_from(sheet), Catch::Contains("forearm: the length of the forearm"));
  CHECK_THROWS_WITH(links_from(kSheet, std::vector<SheetAxis>(5)),
                    Catch::Contains("this family has 6 axes, found 5"));
}

TEST_CASE("limbs reach from each joint to the next") {
  std::vector<Link> links = links_from(kSheet);
  add_limbs(links, 0.1, {});
  for (const Link& link : links) REQUIRE(link.parts.size() == 1);
  const Part& upper = links[2].parts[0];
  CHECK(std::get<Capsule>(upper.shape).length == Approx(0.4));
  CHECK(near(upper.at.position, {0, 0, 0.2}));
}
