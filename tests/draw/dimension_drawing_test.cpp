// The figures of a dimensioned drawing are those that went into the data sheet.
#include "elbowroom/draw/dimension_drawing.hpp"

#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>
#include <sstream>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/model/data_sheet.hpp"
#include "support/cells.hpp"

using namespace er;

namespace {

Arm arm_of(std::vector<Link> links) {
  return Arm::build({.name = "sheet", .links = std::move(links)});
}

std::vector<double> lengths(const Arm& arm, DrawingView view, bool upward) {
  std::vector<double> out;
  for (const ArmDimension& one : dimensions_of(arm, view))
    if (one.upward == upward) out.push_back(std::round(one.length() * 1e6) / 1e6);
  return out;
}

const SixAxisSheet kSheet{.shoulder_height = 0.45,
                          .shoulder_offset = 0.15,
                          .side_offset = -0.04,
                          .upper_arm = 0.6,
                          .elbow_offset = 0.12,
                          .forearm = 0.64,
                          .wrist_offset = -0.02,
                          .flange = 0.1,
                          .turret_height = 0.2,
                          .forearm_start = 0.1};

}  // namespace

TEST_CASE("a six-axis sheet comes back axis to axis, whatever the frames in between") {
  const Arm arm = arm_of(links_from(kSheet));
  CHECK(lengths(arm, DrawingView::side, false) == std::vector<double>{0.15, 0.64, 0.1});
  CHECK(lengths(arm, DrawingView::side, true) == std::vector<double>{0.45, 0.6, 0.12, -0.02});
  CHECK(lengths(arm, DrawingView::plan, true) == std::vector<double>{-0.04});
  const auto all = dimensions_of(arm, DrawingView::side);
  CHECK(all[0].first == "waist");
  CHECK(all[0].second == "shoulder");
  CHECK(all[3].first == "floor");
}

TEST_CASE("the drawing shows the zero posture of the sheet, not its reference") {
  SixAxisSheet hanging = kSheet;
  hanging.forearm_at_zero = Pointing::down;
  const Arm arm = arm_of(links_from(hanging));
  CHECK(lengths(arm, DrawingView::side, true) == std::vector<double>{0.45, 0.6, -0.64, -0.1});
  CHECK(lengths(arm, DrawingView::side, false) == std::vector<double>{0.15, 0.12, -0.02});
}

TEST_CASE("other families") {
  const Arm scara = arm_of(links_from(
      ScaraSheet{.inner_arm = 0.3, .outer_arm = 0.25, .arm_height = 0.22, .flange_height = 0.18}));
  CHECK(lengths(scara, DrawingView::side, false) == std::vector<double>{0.3, 0.25});
  CHECK(lengths(scara, DrawingView::side, true) == std::vector<double>{0.18});
  const Arm seven = arm_of(links_from(SevenAxisSheet{
      .shoulder_height = 0.34, .upper_arm = 0.4, .elbow_offset = 0.05, .forearm = 0.39}));
  CHECK(lengths(seven, DrawingView::side, true) == std::vector<double>{0.34, 0.4, 0.39});
  CHECK(lengths(seven, DrawingView::side, false) == std::vector<double>{0.05, -0.05});
}

TEST_CASE("the drawing is written as SVG with its figures in it") {
  const auto file = std::filesystem::temp_directory_path() / "elbowroom_dimensions.svg";
  draw_dimensions(file, arm_of(links_from(kSheet)));
  std::ifstream in(file);
  std::stringstream text;
  text << in.rdbuf();
  for (const char* figure : {">450<", ">600<", ">640<", ">120<", "wrist_bend", "+y"})
    CHECK_THAT(text.str(), Catch::Contains(figure));
  std::filesystem::remove(file);
  CHECK_THROWS_AS(draw_dimensions("x.jpg", arm_of(links_from(kSheet))), InputError);
  CHECK_THROWS_WITH(draw_dimensions("x.jpg", arm_of(links_from(kSheet))),
                    Catch::Contains("a plot is a .png or .svg file"));
}
