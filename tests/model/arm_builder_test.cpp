// An arm written with the builder is the arm that its description makes.
#include "elbowroom/model/arm_builder.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/kinematics/comparison.hpp"
#include "elbowroom/model/data_sheet.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::literals;
using test::values;

TEST_CASE("the builder and a cell file make the same arm") {
  const Cell cell = parse_cell(R"(elbowroom: cell/1
arms:
  - name: lever
    mount: [1 m, 0, 0]
    links:
      - name: foot
      - name: bar
        joint: {name: hinge, at: [0, 0, 60 mm], axis: [0, 1, 0], range: [-90 deg, 60 deg], zero: 20 deg, sense: reversed, velocity: 90 deg/s, acceleration: 300 deg/s^2, jerk: 900 deg/s^3, torque: 12 N m}
        parts: [{box: {size: [300 mm, 20 mm, 20 mm]}, at: [150 mm, 0, 0]}]
      - name: slide
        joint: {kind: prismatic, at: [300 mm, 0, 0], axis: [1, 0, 0], range: [0 mm, 80 mm]}
      - name: other
        parent: bar
        joint: {kind: prismatic, axis: [0, 1, 0], follow: {joint: bar_to_slide, ratio: -1, offset: 5 mm}}
    tools: [{name: tip, link: slide, tip: [50 mm, 0, 0]}]
    stances: {home: [10 deg, 20 mm]}
)");
  const Arm built = ArmBuilder("lever")
                        .mount(Pose::at({1, 0, 0}))
                        .base("foot")
                        .turns("bar", Vector3::UnitY())
                        .zero(20.0_deg, true)  // before the place: the order does not matter
                        .joint("hinge")
                        .at({0, 0, 60.0_mm})
                        .range(-90.0_deg, 60.0_deg)
                        .speed(90.0_deg)
                        .acceleration(300.0_deg)
                        .jerk(900.0_deg)
                        .torque(12)
                        .part({Box{{300.0_mm, 20.0_mm, 20.0_mm}}, Pose::at({150.0_mm, 0, 0})})
                        .slides("slide", Vector3::UnitX())
                        .at({300.0_mm, 0, 0})
                        .range(0, 80.0_mm)
                        .tool("tip", Pose::at({50.0_mm, 0, 0}))
                        .slides("other", Vector3::UnitY())
                        .on("bar")
                        .follows("bar_to_slide", -1.0, 5.0_mm)
                        .stance("home", {10.0_deg, 20.0_mm})
                        .build();
  const Arm& read = cell.arm("lever");
  CHECK(compare(read, built).same());
  REQUIRE(built.dof() == 2);
  CHECK((read.stance("home") - built.stance("home")).norm() < 1e-15);
  const auto a = link_poses(read, values({0.3, 0.02}));
  const auto b = link_poses(built, values({0.3, 0.02}));
  for (std::size_t l = 0; l < a.size(); ++l) CHECK((a[l].position - b[l].position).norm() < 1e-15);
}

TEST_CASE("the builder takes links made another way, and refuses what has no base") {
  const Arm arm = ArmBuilder("level")
                      .links(links_from(PlanarSheet{.upright = false, .lengths = {0.3, 0.2}}))
                      .tool("tip", {})
                      .station("left", Pose::at({0, 1, 0}))
                      .build();
  CHECK(arm.dof() == 2);
  CHECK(arm.tool("tip").link == "flange");
  CHECK(tool_pose(arm, arm.tool(""), values({0, 0})).position.x() == Approx(0.5));
  CHECK(arm.at_station("left").mount().position.y() == 1.0);
  CHECK_THROWS_WITH(ArmBuilder("x").range(0, 1), Catch::Contains("an arm begins with its base"));
  CHECK_THROWS_WITH(ArmBuilder("x").base("a").turns("b", {0, 0, 0}).build(),
                    Catch::Contains("axis"));
}
