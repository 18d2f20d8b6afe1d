// Each mistake that `inspect` is there to find, made on purpose; and nothing found on a sound arm.
#include "elbowroom/collision/findings.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/collision/inspection.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/model/data_sheet.hpp"
#include "support/cells.hpp"

using namespace er;
using Catch::Contains;

namespace {

// A sound six-axis arm with limbs and a tool.
ArmDescription sound() {
  ArmDescription d{.name = "arm"};
  std::vector<SheetAxis> axes(6);
  for (SheetAxis& axis : axes)
    axis.limits = {.lower = -2, .upper = 2, .velocity = 2, .acceleration = 8};
  d.links = links_from(SixAxisSheet{.shoulder_height = 0.34,
                                    .shoulder_offset = 0.04,
                                    .upper_arm = 0.40,
                                    .forearm = 0.39,
                                    .flange = 0.1,
                                    .forearm_start = 0.15},
                       axes);
  add_limbs(d.links, 0.06, {});
  d.tools = {{.name = "tip", .tip = Pose::at({0.1, 0, 0})}};
  return d;
}

std::string found(const ArmDescription& d) {
  std::string all;
  const Arm arm = Arm::build(d);
  for (const Finding& f : findings_of(Cell::build({.arms = {arm}}), arm))
    all += std::string(name_of(f.severity)) + " " + f.subject + ": " + f.text + " | " + f.advice +
           "\n";
  return all;
}

}  // namespace

TEST_CASE("findings: a sound arm has none, nor has the demo cell") {
  CHECK(found(sound()).empty());
  CHECK(inspect(load_cell(std::string(DEMO_DIR) + "/glaze.cell.yaml")).findings.empty());
}

TEST_CASE("findings: units by their size") {
  ArmDescription d = sound();
  d.links[1].joint.limits.upper = 90;
  CHECK_THAT(found(d),
             Contains("odd arm, joint waist: the range spans 14.6 turns | check the unit"));
  d = sound();
  d.links[1].joint.limits.lower = -3.14159 * 3.14159265 / 180;
  d.links[1].joint.limits.upper = 3.14159 * 3.14159265 / 180;
  CHECK_THAT(found(d),
             Contains("the range is -3.14 deg to 3.14 deg") && Contains("look like radians"));
  d = sound();
  d.links[1].joint.limits.velocity = 180;
  CHECK_THAT(found(d), Contains("the speed limit is 10313 deg/s"));
  d = sound();
  d.links[3].joint.kind = JointKind::prismatic;
  d.links[3].joint.limits = {.lower = 0, .upper = 300, .velocity = 1, .acceleration = 1};
  CHECK_THAT(found(d), Contains("it slides over 300 m"));
}

TEST_CASE("findings: a figure that stands out from the rest of the arm") {
  ArmDescription d = sound();
  d.links[3].joint.origin.position = {0, 0, 400};
  CHECK_THAT(found(d),
             Contains("odd arm.elbow_block: its joint is 400000.0 mm from the one before") &&
                 Contains("check the unit of at:, mm or m"));
  d = sound();
  d.links[2].joint.limits.velocity = 2.0 * 3.14159265 / 180;
  CHECK_THAT(found(d), Contains("joint shoulder: the speed limit is 2.0 deg/s, that of others 115 "
                                "deg/s | check the unit: rad/s may be meant"));
}

TEST_CASE("findings: what is missing and for which verb") {
  ArmDescription d = sound();
  d.links[2].joint.limits = {};
  d.tools.clear();
  CHECK_THAT(
      found(d),
      Contains("missing arm, joint shoulder: no range is stated | reach, route and survey") &&
          Contains("no velocity is stated | pace and rehearse") &&
          Contains("missing arm: it has no tool"));
  d = sound();
  d.links[1].joint.limits.lower = d.links[1].joint.limits.upper;
  CHECK_THAT(found(d), Contains("its two limits are the same"));
}

TEST_CASE("findings: a copied joint, a parallel wrist, a joint that moves nothing") {
  ArmDescription d = sound();
  d.links[4].joint.origin = {};
  d.links[4].joint.axis = d.links[3].joint.axis;
  CHECK_THAT(found(d), Contains("joint forearm_turn: it turns about the same line as joint elbow"));
  d = sound();
  d.links[6].joint.axis = Vector3::UnitY();
  CHECK_THAT(found(d),
             Contains("joint wrist_turn: its axis is parallel to that of joint wrist_bend"));
  d = sound();
  d.tools[0].link = "wrist";
  d.links[6].parts.clear();
  CHECK_THAT(found(d), Contains("joint wrist_turn: nothing moves when it moves"));
  d = sound();
  d.links[3].parts.clear();
  CHECK_THAT(found(d), Contains("arm.elbow_block: it has no parts that count for collisions"));
}

TEST_CASE("findings: shapes far off, links in each other, a tool of no length") {
  ArmDescription d = sound();
  d.links[3].parts[0].at.position = {5, 0, 0};
  CHECK_THAT(found(d), Contains("arm.elbow_block: its") && Contains("away from it"));
  d = sound();
  d.links[5].parts.push_back({.shape = Sphere{0.5}});
  CHECK_THAT(found(d), Contains("deep in") && Contains("at zero posture"));
  const Arm overlapping = Arm::build(d);
  CellDescription excused{.arms = {overlapping}};
  for (const Link& link : overlapping.links())
    excused.contacts.push_back({"arm.wrist", "arm." + link.name});
  CHECK(findings_of(Cell::build(excused), overlapping).empty());
  d = sound();
  d.tools[0].tip = {};
  CHECK_THAT(found(d), Contains("tool tip: it has no length"));
}

TEST_CASE("findings: masses that cannot be") {
  ArmDescription d = sound();
  d.links[2].inertial = inertial_of(d.links[2].parts, 3.0);
  CHECK(found(d) == "");
  d.links[2].inertial.centre = {0, 0.3, 0};
  CHECK_THAT(found(d), Contains("its centre of mass lies 270 mm outside of its shapes"));
  d = sound();
  d.links[2].inertial = inertial_of(d.links[2].parts, 3.0);
  d.links[2].inertial.inertia(2, 2) *= 5000;
  CHECK_THAT(found(d), Contains("wrong arm.upper_arm: no body has this inertia"));
}

TEST_CASE("findings: each has its place in the file") {
  const Cell cell = parse_cell(R"yaml(elbowroom: cell/1
values: {spare: 2 mm}
arms:
  - name: desk
    links:
      - name: foot
        parts: [{box: {size: [50 mm, 50 mm, 50 mm]}}]
      - name: upper
        joint: {axis: [0, 1, 0], range: [-90 rad, 90 rad], velocity: 90 deg/s, acceleration: 90 deg/s^2}
        parts: [{box: {size: [20 mm, 20 mm, 90 mm], base: [0, 0, 0]}}]
    tools:
      - {name: pen, link: upper, tip: [0, 0, 90 mm]}
    stances:
      up: [0 deg]
      over: [95 rad]
)yaml",
                               "desk.yaml");
  const Inspection inspection = inspect(cell);
  std::string all;
  for (const Finding& f : inspection.findings) all += f.place.text() + " " + f.text + "\n";
  CHECK_THAT(all, Contains("desk.yaml:2:10 nothing uses it"));
  CHECK_THAT(all, Contains("desk.yaml:8:9 the range spans 28.6 turns"));
  CHECK_THAT(all, Contains("desk.yaml:15:7 joint foot_to_upper would be at"));
  CHECK(inspection.findings.front().severity == Severity::wrong);
  CHECK_THAT(inspection.report(), Contains("(desk.yaml:15:7)"));
}
