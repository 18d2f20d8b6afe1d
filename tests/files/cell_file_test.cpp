#include "elbowroom/files/cell_file.hpp"

#include <algorithm>
#include <catch2/catch.hpp>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_writer.hpp"
#include "elbowroom/kinematics/forward.hpp"

using namespace er;

namespace {

const char* const kGood = R"(elbowroom: cell/1
name: small
arms:
  - name: lift
    mount: {position: [1 m, 0 mm, 0 mm], rpy: [0 deg, 0 deg, 90 deg]}
    colour: "#102030"
    links:
      - name: base
      - name: slide
        joint: {kind: prismatic, axis: [0, 0, 1], range: [0 mm, 500 mm], velocity: 300 mm/s}
        parts:
          - box: {size: [10 mm, 20 mm, 30 mm]}
            at: {position: [1 mm, 2 mm, 3 mm], quaternion: [1, 0, 0, 0]}
            colour: "#ff0000"
          - sphere: {radius: 5 mm}
            for: looks
      - name: swing
        joint: {name: swing_joint, at: [100 mm, 0 mm, 0 mm], axis: [0, 2, 0], range: [-90 deg, 90 deg]}
        parts: [{capsule: {radius: 1 cm, length: 2 cm}}, {cylinder: {radius: 1 cm, length: 2 cm}, for: collision}]
      - name: flag
        parent: slide
        joint: {kind: fixed, at: [0 mm, 50 mm, 0 mm]}
    tools: [{name: tip, link: swing, tip: [200 mm, 0 mm, 0 mm]}]
    stances: {up: [400 mm, -90 deg]}
fixtures: [{name: wall, at: [0 m, 1 m, 0 m], parts: [{box: {size: [1 m, 1 mm, 1 m]}}]}]
pieces: [{name: cup, mass: 240 g, parts: [{sphere: {radius: 3 cm}}]}]
frames: [{name: shelf, at: [0 m, 0 m, 2 m]}]
contacts: [[lift.swing, cup]]
)";

std::string changed(const std::string& from, const std::string& to) {
  std::string text = kGood;
  const auto at = text.find(from);
  REQUIRE(at != std::string::npos);
  text.replace(at, from.size(), to);
  try {
    parse_cell(text, "f");
  } catch (const InputError& error) {
    return error.what();
  }
  return "no error";
}

}  // namespace

TEST_CASE("everything a cell file says arrives") {
  const Cell cell = parse_cell(kGood);
  const Arm& arm = cell.arm("lift");
  CHECK(arm.dof() == 2);
  CHECK(arm.moving_joint(0).name == "base_to_slide");
  CHECK(arm.moving_joint(0).limits.upper == 0.5);
  CHECK(arm.moving_joint(0).limits.velocity == Approx(0.3));
  CHECK(std::isinf(arm.moving_joint(0).limits.acceleration));
  CHECK(arm.moving_joint(1).axis == Vector3::UnitY());
  CHECK(arm.links()[3].parent_index == 1);
  CHECK(arm.links()[1].parts[0].colour.red == 1.0);
  CHECK(arm.links()[1].parts[1].colour.red == Approx(16.0 / 255));
  CHECK_FALSE(arm.links()[1].parts[1].collides);
  CHECK_FALSE(arm.links()[2].parts[1].looks);
  CHECK(std::get<Capsule>(arm.links()[2].parts[0].shape).length == 0.02);
  CHECK(cell.pieces()[0].mass == 0.24);
  CHECK(cell.contact_is_meant("cup", "lift.swing"));
  // Lifted 0.4, swung down by -90 deg about y: the tip points up. x of the arm is y of the world.
  const Pose tip = tool_pose(arm, arm.tool("tip"), cell.stance("lift.up"));
  CHECK((tip.position - Vector3(1.0, 0.1, 0.6)).norm() < 1e-12);
}

TEST_CASE("the demo cell loads, and its home is free of faults") {
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  CHECK(cell.arms().size() == 1);
  CHECK(cell.fixtures().size() == 13);
  CHECK(cell.pieces().size() == 6);
  CHECK(cell.stance("teasel.home").size() == 6);
}

TEST_CASE("each fault is named with its line and column and what to do") {
  CHECK(changed("elbowroom: cell/1\n", "") ==
        "f:1:1: this does not say that it is a cell file\n  begin the file with the line "
        "'elbowroom: cell/1'");
  CHECK(changed("cell/1", "cell/2") == "f:1:12: expected a file of kind 'cell/1', found 'cell/2'");
  CHECK(changed("fixtures:", "fixtuers:") ==
        "f:25:1: unknown key in a cell 'fixtuers'\n  did you mean 'fixtures'? known: elbowroom, "
        "include, values, templates, name, arms, fixtures, pieces, zones, frames, contacts");
  CHECK(changed("range: [0 mm, 500 mm]", "range: [0 deg, 500 mm]") ==
        "f:10:59: expected a length (such as 350 mm), found '0 deg', which is an angle (such as 90 "
        "deg)");
  CHECK(changed("range: [-90 deg, 90 deg]", "range: [90 deg, -90 deg]") ==
        "f:18:86: the range of joint 'swing_joint' is the wrong way round: lower 90.00 deg is "
        "above upper -90.00 deg\n"
        "  write the lower limit first");
  CHECK(changed("range: [-90 deg, 90 deg]", "range: [90 deg]") ==
        "f:18:86: a range is two limits, found 1");
  CHECK(changed("axis: [0, 2, 0]", "axis: [0, 0, 0]") ==
        "f:18:68: the axis of joint 'swing_joint' has no direction\n  give a direction such as [0, "
        "0, 1]");
  CHECK(changed("axis: [0, 2, 0], ", "") == "f:18:16: a moving joint needs the key 'axis'");
  CHECK(changed("velocity: 300 mm/s", "velocity: -300 mm/s") ==
        "f:10:84: the velocity limit of joint 'base_to_slide' must be above zero");
  CHECK(changed("velocity: 300 mm/s", "velocity: [300 mm/s, 500 mm/s]") ==
        "f:10:85: the limit for going down is below zero");
  CHECK(changed("velocity: 300 mm/s", "velocity: [-300 mm/s, -500 mm/s]") ==
        "f:10:96: the limit for going up is above zero");
  CHECK(changed("velocity: 300 mm/s", "velocity: [300 mm/s]") ==
        "f:10:84: limits by the way are two, found 1\n  write the one for going down, below zero, "
        "and the one for going up");
  CHECK(changed("velocity: 300 mm/s", "velocity: [-300 mm/s, 90 deg/s]").find("f:10:96: ") == 0);
  CHECK(changed("velocity: 300 mm/s", "velocity: 300 mm") ==
        "f:10:84: expected a speed (such as 250 mm/s), found '300 mm', which is a length (such as "
        "350 mm)");
  CHECK(changed("velocity: 300 mm/s", "velocity: .nan").find("f:10:84: ") == 0);
  CHECK(changed("velocity: 300 mm/s", "velocity: 1e400 mm/s") ==
        "f:10:84: '1e400 mm/s' is a number too large or too small to hold");
  CHECK(changed("kind: prismatic", "kind: prismatc") ==
        "f:10:23: unknown kind of joint 'prismatc'\n  did you mean 'prismatic'? known: continuous, "
        "revolute, prismatic, fixed");
  CHECK(changed("radius: 5 mm", "radius: 0 mm") ==
        "f:15:13: the radius of a sphere must be above zero, found 0 mm");
  CHECK(changed("sphere: {radius: 5 mm}", "spere: {radius: 5 mm}")
            .find("f:15:13: unknown key in a part 'spere'\n  did you mean 'sphere'?") == 0);
  CHECK(
      changed("          - sphere: {radius: 5 mm}\n            for: looks",
              "          - for: looks") ==
      "f:15:13: a part is one shape, found 0\n  give one of: box, sphere, cylinder, capsule, cone, "
      "half_space, hull, mesh, cloud");
  CHECK(changed("for: looks", "for: look")
            .find("unknown purpose of a part 'look'\n  did you mean 'looks'?") !=
        std::string::npos);
  CHECK(changed("\"#ff0000\"", "red") ==
        "f:14:21: 'red' is not a colour\n  write it like \"#c8553d\", or \"#c8553d80\" with its "
        "opacity, in quotes");
  CHECK(changed("parent: slide", "parent: slid") ==
        "f:21:17: unknown parent link (it must come earlier) 'slid'\n  did you mean 'slide'? "
        "known: base, slide, swing");
  CHECK(changed("kind: fixed,", "kind: fixed, axis: [0, 0, 1],") ==
        "f:22:36: a fixed joint has no axis");
  CHECK(changed("link: swing", "link: swng")
            .find("f:23:31: unknown link 'swng'\n  did you mean 'swing'?") == 0);
  CHECK(changed("up: [400 mm, -90 deg]", "up: [400 mm]") ==
        "f:24:19: found 1 joint value, arm 'lift' has 2 moving joints\n  give one value per moving "
        "joint, in chain order");
  CHECK(changed("up: [400 mm, -90 deg]", "up: [40 deg, -90 deg]") ==
        "f:24:20: expected a length (such as 350 mm), found '40 deg', which is an angle (such as "
        "90 deg)");
  CHECK(changed("name: wall", "name: cup").find("f:26:17: the name 'cup' is used twice") == 0);
  CHECK(changed("mass: 240 g", "mass: 0 g") == "f:26:28: a mass must be above zero");
  CHECK(changed("[lift.swing, cup]", "[lift.swing, cap]")
            .find("f:28:25: unknown link, fixture or piece 'cap'\n  did you mean 'cup'?") == 0);
  CHECK(changed("[lift.swing, cup]", "[lift.swing]")
            .find("f:28:12: a contact is two names, found 1") == 0);
  CHECK(changed("quaternion: [1, 0, 0, 0]", "quaternion: [0, 0, 0, 0]")
            .find("f:13:60: a quaternion of zero length") == 0);
  CHECK(changed("rpy: [0 deg, 0 deg, 90 deg]", "rpy: [0 deg, 0 deg, 90]") ==
        "f:5:62: expected an angle (such as 90 deg), found '90', which is a plain number\n  add "
        "the unit; only 0 may go without one");
  CHECK(changed("rpy: [0 deg, 0 deg, 90 deg]",
                "rpy: [0 deg, 0 deg, 90 deg], quaternion: [1, 0, 0, 0]")
            .find("a rotation is given twice") != std::string::npos);
  CHECK(changed("arms:\n", "arms: none\nmore:\n").find("unknown key in a cell 'more'") !=
        std::string::npos);
}

TEST_CASE("limits that differ by the way are read and written") {
  const std::string text =
      "elbowroom: cell/1\narms:\n  - name: lift\n    links:\n      - name: base\n"
      "      - name: carriage\n        joint: {kind: prismatic, axis: [0, 0, 1], range: [0, 900 "
      "mm], "
      "velocity: [-1.2 m/s, 0.6 m/s], acceleration: [-4 m/s^2, 2 m/s^2]}\n"
      "    tools: [{name: tip, link: carriage}]\n";
  const Cell cell = parse_cell(text);
  const Limits& limits = cell.arms().front().limits();
  CHECK(limits.velocity[0] == 0.6);
  CHECK(limits.velocity_of(0).low == -1.2);
  CHECK(limits.acceleration_of(0).low == -4.0);
  CHECK(limits.acceleration_of(0).high == 2.0);
  const Written written = cell_file_of(cell, ChainForm::links);
  CHECK_THAT(written.text, Contains("velocity: [-1200 mm/s, 600 mm/s]") &&
                               Contains("acceleration: [-4000 mm/s^2, 2000 mm/s^2]"));
  const Cell read_back = parse_cell(written.text);
  const Limits& again = read_back.arms().front().limits();
  CHECK(again.velocity_of(0).low == -1.2);
  CHECK(again.acceleration_of(0).high == 2.0);
  const Written robot = robot_xml_of(cell.arms().front());
  CHECK_THAT(robot.text, Contains("velocity=\"0.6\""));
  CHECK(std::any_of(robot.lost.begin(), robot.lost.end(), [](const Note& note) {
    return note.text == "speed limits that differ by the way";
  }));
}
