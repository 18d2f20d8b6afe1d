// Robot XML in and out: what is held, what is tolerated, what is refused.
#include "elbowroom/files/robot_xml.hpp"

#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>

#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/cell_writer.hpp"
#include "elbowroom/kinematics/comparison.hpp"
#include "support/cells.hpp"

using namespace er;
using Catch::Contains;

namespace {

const std::filesystem::path kFiles = std::filesystem::path(TESTS_DIR) / "files" / "robot_xml";

Arm arm_of(const RobotXml& robot) { return Arm::build({.name = "robot", .links = robot.links}); }

Arm load(const std::string& name, const RobotXmlOptions& options = {}) {
  return arm_of(read_robot_xml(kFiles / name, options));
}

std::string refusal(const std::string& name) {
  try {
    arm_of(read_robot_xml(kFiles / name));
  } catch (const InputError& error) {
    return error.what();
  }
  return "no error";
}

bool noted(const RobotXml& robot, const std::string& text) {
  for (const Note& note : robot.notes)
    if (note.text.find(text) != std::string::npos) return true;
  return false;
}

}  // namespace

TEST_CASE("robot XML: every kind of joint is read as what it is") {
  const Arm arm = load("every_joint.xml");
  // revolute, continuous, prismatic, a follower, planar (3), floating (6), fixed
  CHECK(arm.dof() == 3 + 3 + 6);
  CHECK(arm.moving_joint(0).limits.lower == -1.5);
  CHECK(arm.moving_joint(0).limits.torque == 40.0);
  CHECK(arm.moving_joint(0).damping == 0.7);
  CHECK(arm.moving_joint(0).friction == 0.05);
  CHECK(arm.moving_joint(1).continuous);
  CHECK(arm.moving_joint(2).kind == JointKind::prismatic);
  const Link& finger = arm.links()[static_cast<std::size_t>(arm.link_index("finger_b"))];
  CHECK(finger.posture_index == 2);
  CHECK(finger.posture_ratio == -1.0);
  CHECK(finger.posture_offset == 0.002);
  // The planar joint slides across its axis and turns about it.
  const int puck = arm.link_index("puck");
  Posture q = Posture::Zero(arm.dof());
  const Vector3 before = link_poses(arm, q)[static_cast<std::size_t>(puck)].position;
  q[3] = 0.3;
  q[4] = 0.4;
  const Vector3 moved = link_poses(arm, q)[static_cast<std::size_t>(puck)].position - before;
  CHECK(moved.norm() == Approx(0.5));
  CHECK(moved.y() == Approx(0.0).margin(1e-12));  // the axis is y
}

TEST_CASE("robot XML: what it holds comes back from a round trip") {
  for (const auto& entry : std::filesystem::directory_iterator(kFiles)) {
    const std::string name = entry.path().filename().string();
    if (entry.path().extension() != ".xml" || name.rfind("broken_", 0) == 0 ||
        name == "two_arms.xml")
      continue;
    INFO(name);
    const Arm first = load(name);
    const Written written = robot_xml_of(first);
    const Arm second = arm_of(parse_robot_xml(written.text, (kFiles / "again.xml").string()));
    const Comparison comparison = compare(first, second, {.length = 1e-12, .angle = 1e-9});
    INFO(comparison.report(first, second));
    CHECK(comparison.same());
    REQUIRE(first.links().size() == second.links().size());
    for (std::size_t i = 0; i < first.links().size(); ++i) {
      const Link& a = first.links()[i];
      const Link& b = second.links()[i];
      CHECK(a.name == b.name);
      CHECK(a.joint.name == b.joint.name);
      CHECK(a.joint.follow.ratio == b.joint.follow.ratio);
      CHECK(a.joint.damping == b.joint.damping);
      CHECK(a.joint.friction == b.joint.friction);
      REQUIRE(a.parts.size() == b.parts.size());
      for (std::size_t p = 0; p < a.parts.size(); ++p) {
        CHECK(name_of(a.parts[p].shape) == name_of(b.parts[p].shape));
        CHECK((a.parts[p].at.position - b.parts[p].at.position).norm() < 1e-15);
        CHECK((a.parts[p].at.rotation - b.parts[p].at.rotation).norm() < 1e-14);
        CHECK(a.parts[p].looks == b.parts[p].looks);
        CHECK(a.parts[p].collides == b.parts[p].collides);
        if (a.parts[p].looks) CHECK(a.parts[p].colour.red == b.parts[p].colour.red);
      }
    }
  }
}

TEST_CASE("robot XML: the mess of the real world is tolerated and said") {
  const RobotXml blanks = read_robot_xml(kFiles / "names_with_blanks.xml");
  CHECK(blanks.links[1].name == "upper_arm_link");
  CHECK(noted(blanks, "'upper arm.link' is 'upper_arm_link' here"));
  const RobotXml limits = read_robot_xml(kFiles / "missing_limits.xml");
  CHECK(noted(limits, "joint 'a' has no <limit>"));
  CHECK(noted(limits, "the velocity limit of joint 'b' is 0"));
  CHECK(std::isinf(arm_of(limits).limits().upper[0]));
  const RobotXml axes = read_robot_xml(kFiles / "unnormalised_axes.xml");
  CHECK(noted(axes, "has length 2"));
  CHECK(axes.links[1].joint.axis.norm() == Approx(1.0).epsilon(1e-15));
  const RobotXml extras = read_robot_xml(kFiles / "unknown_elements.xml");
  CHECK(noted(extras, "gearbox (2)"));
  CHECK(noted(extras, "wiring (1)"));
  const RobotXml windows = read_robot_xml(kFiles / "windows_lines.xml");
  CHECK(windows.links.size() == 2);
  const RobotXml numbers = read_robot_xml(kFiles / "scientific.xml");
  CHECK(numbers.links[1].joint.origin.position.x() == 1.5e-1);
  CHECK(arm_of(numbers).limits().upper[0] == 3.14e0);
  // The default axis of the format is x.
  CHECK(load("defaults.xml").moving_joint(0).axis == Vector3::UnitX());
  // Children before parents, the root last.
  CHECK(load("any_order.xml").links()[0].name == "root");
  // An inertial frame that is turned against its link.
  const Arm inertials = load("inertials.xml");
  CHECK(inertials.links()[1].inertial.inertia(0, 0) == Approx(0.03));
  CHECK(inertials.links()[1].inertial.inertia(1, 1) == Approx(0.01));
  CHECK(inertials.links()[1].inertial.centre.x() == 0.1);
}

TEST_CASE("robot XML: materials, and shapes that look and collide alike") {
  const Arm arm = load("materials.xml");
  const std::vector<Part>& parts = arm.links()[0].parts;
  REQUIRE(parts.size() == 3);
  CHECK((parts[0].looks && parts[0].collides));
  CHECK(parts[0].colour.red == 0.2);
  CHECK((parts[1].looks && !parts[1].collides));
  CHECK(parts[1].colour.green == 0.9);
  CHECK((!parts[2].looks && parts[2].collides));
}

TEST_CASE("robot XML: names, opacity and textures of materials come back as they were") {
  const char* text = R"(<robot name="r">
  <material name="clay"><color rgba="0.2 0.3 0.4 0.25"/><texture filename="clay.png"/></material>
  <link name="a"><visual><geometry><sphere radius="0.05"/></geometry><material name="clay"/></visual>
  <visual><geometry><sphere radius="0.06"/></geometry><material name="slip"><color rgba="0.1 0.9 0.1 0.5"/></material></visual></link>
</robot>)";
  const Arm arm = Arm::build({.name = "r", .links = parse_robot_xml(text, "r.xml").links});
  const Arm back =
      Arm::build({.name = "r", .links = parse_robot_xml(robot_xml_of(arm).text, "back.xml").links});
  for (const Arm* one : {&arm, &back}) {
    const std::vector<Part>& parts = one->links()[0].parts;
    REQUIRE(parts.size() == 2);
    CHECK(parts[0].material == "clay");
    CHECK(parts[0].texture == "clay.png");
    CHECK(parts[0].colour.opacity == 0.25);
    CHECK(parts[0].colour.blue == 0.4);
    CHECK(parts[1].material == "slip");
    CHECK(parts[1].colour.opacity == 0.5);
    CHECK(parts[1].texture.empty());
  }
  // And through a cell file, where colours have 8 bits.
  const Cell cell = Cell::build({.arms = {arm}});
  const Cell again = parse_cell(cell_file_of(cell).text);
  const Part& part = again.arms()[0].links()[0].parts[0];
  CHECK(part.material == "clay");
  CHECK(part.texture == "clay.png");
  CHECK(part.colour.opacity == Approx(0.25).margin(0.5 / 255));
}

TEST_CASE("robot XML: meshes come in as hulls, by package, by relative path and scaled") {
  const Arm arm = load("meshes.xml");
  const auto& hull = std::get<Hull>(arm.links()[0].parts[0].shape);
  CHECK(hull.data->corners.size() == 8);
  CHECK(hull.data->origin.file == "package://robot_xml/block.stl");
  CHECK(bounding_radius(hull) == Approx(0.05 * std::sqrt(3.0)).epsilon(1e-6));
  const auto& far = std::get<Hull>(arm.links()[1].parts[0].shape);
  CHECK(half_extent(far, Matrix3::Identity()).x() == Approx(0.1).epsilon(1e-6));
  CHECK(half_extent(far, Matrix3::Identity()).y() == Approx(0.05).epsilon(1e-6));
}

TEST_CASE("robot XML: two arms in one file are split by base and tip") {
  CHECK_THROWS_WITH(load("two_arms.xml", {.base = "left_bas"}),
                    Contains("did you mean 'left_base'?"));
  const Arm left = load("two_arms.xml", {.base = "left_base"});
  CHECK(left.dof() == 2);
  CHECK(left.links().size() == 4);
  const Arm right = load("two_arms.xml", {.base = "right_base", .tip = "right_hand"});
  CHECK(right.dof() == 2);
  CHECK(right.links().back().name == "right_finger");  // hangs on the tip
  CHECK_THROWS_WITH(load("two_arms.xml", {.base = "left_base", .tip = "right_hand"}),
                    Contains("'right_hand' does not hang on 'left_base'"));
  const Arm both = load("two_arms.xml");
  CHECK(both.dof() == 5);
}

TEST_CASE("robot XML: in a cell file, as an arm and frozen as a fixture") {
  const std::string text =
      "elbowroom: cell/1\narms:\n  - name: left\n    robot_xml: {file: two_arms.xml, "
      "base: left_base}\n    links: [{name: left_hand, mass: 2 kg, parts: "
      "[{sphere: {radius: 50 mm}}]}]\n    tools: [{name: tip, link: left_hand}]\n"
      "fixtures:\n  - name: frozen\n    at: [1 m, 0, 0]\n    robot_xml: {file: "
      "two_arms.xml, base: right_base, posture: {right_shoulder: 90 deg}}\n";
  const Cell cell = parse_cell(text, (kFiles / "cell.yaml").string());
  CHECK(cell.arm("left").dof() == 2);
  const Arm& left = cell.arm("left");
  CHECK(left.links()[static_cast<std::size_t>(left.link_index("left_hand"))].inertial.mass == 2.0);
  REQUIRE(cell.fixtures()[0].parts.size() == 2);
  CHECK(cell.fixtures()[0].parts[1].at.position.y() == Approx(0.3));
  CHECK_THROWS_WITH(
      parse_cell("elbowroom: cell/1\nfixtures: [{name: f, robot_xml: {file: two_arms.xml, "
                 "posture: {right_sholder: 0}}}]\n",
                 (kFiles / "cell.yaml").string()),
      Contains("did you mean 'right_shoulder'?"));
}

TEST_CASE("robot XML: real faults are refused with their line") {
  CHECK_THAT(refusal("broken_two_roots.xml"),
             Contains("broken_two_roots.xml:5:3: there are two roots: 'base' and 'stray'"));
  CHECK_THAT(refusal("broken_loop.xml"), Contains(":2:") && Contains("in a loop"));
  CHECK_THAT(refusal("broken_unknown_link.xml"),
             Contains(":5:") && Contains("unknown link of joint 'j': 'forarm'") &&
                 Contains("did you mean 'forearm'?"));
  CHECK_THAT(refusal("broken_not_a_number.xml"),
             Contains(":6:") && Contains("'nan', which is no number"));
  CHECK_THAT(refusal("broken_limits_reversed.xml"),
             Contains(":9:") && Contains("the wrong way round: lower 1 is above upper -1"));
  CHECK_THAT(refusal("broken_truncated.xml"), Contains("not well-formed XML"));
  CHECK_THAT(refusal("broken_two_parents.xml"), Contains("hangs on two joints, 'a' and 'b'"));
  CHECK_THAT(refusal("broken_missing_mesh.xml"), Contains("there is no file 'lost.stl'"));
  CHECK_THAT(refusal("not_there.xml"), Contains("there is no such file"));
  std::string chain = "<robot name=\"r\"><link name=\"l0\"/>";
  for (int i = 1; i < 5000; ++i)
    chain += "<link name=\"l" + std::to_string(i) + "\"/><joint name=\"j" + std::to_string(i) +
             "\" type=\"fixed\"><parent link=\"l" + std::to_string(i - 1) + "\"/><child link=\"l" +
             std::to_string(i) + "\"/></joint>";
  CHECK_THROWS_WITH(parse_robot_xml(chain + "</robot>", "long.xml"),
                    Contains("more than 1000 links"));
}

TEST_CASE("robot XML: what cannot be held is listed") {
  const Cell cell = load_cell(std::string(DEMO_DIR) + "/glaze.cell.yaml");
  const Written written = robot_xml_of(cell.arm("teasel"));
  std::string lost;
  for (const Note& note : written.lost) lost += note.text + "; ";
  for (const char* what : {"1 tool", "stances", "mounted", "acceleration", "jerk", "capsules"})
    CHECK_THAT(lost, Contains(what));
  const Arm back = arm_of(parse_robot_xml(written.text, "w.xml"));
  const Comparison comparison = compare(cell.arm("teasel"), back);
  for (const Difference& one : comparison.differences)  // only limits that the format lacks
    CHECK_THAT(one.text, Contains("acceleration") || Contains("jerk"));
}
