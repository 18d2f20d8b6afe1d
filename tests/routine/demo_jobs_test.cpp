// The demo's other jobs: a band round a cup on the wheel, a mark in one stroke by an arm in a
// plane.
#include <algorithm>
#include <catch2/catch.hpp>
#include <fstream>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/routine_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/rehearse/rehearse.hpp"
#include "elbowroom/routine/drawing.hpp"
#include "support/folder.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;

TEST_CASE("a brush is kept at a cup while the wheel turns it all the way round") {
  const Cell cell = load_cell(DEMO_DIR "/wheel.cell.yaml");
  const CellQuery query(cell, "teasel");
  const auto plan = plan_routine(query, load_routine(DEMO_DIR "/band.routine.yaml", cell));
  REQUIRE(plan);
  CHECK(rehearse(cell, *plan, {.rate = kSanitized ? 50.0 : 200.0}).passed());
  const auto named = [&](const std::string& name) -> const Body& {
    const auto found = std::find_if(cell.pieces().begin(), cell.pieces().end(),
                                    [&](const Body& piece) { return piece.name == name; });
    return *found;
  };
  const auto band =
      std::find_if(plan->steps.begin(), plan->steps.end(),
                   [](const PlannedStep& one) { return one.step.name == "the band"; });
  REQUIRE(band != plan->steps.end());
  double turned = 0.0;
  double last = 0.0;
  for (int i = 0; i <= 200; ++i) {
    const double time = band->begins + 1e-6 + (band->duration() - 2e-6) * i / 200;
    const Pose cup = plan->place_of(named("cup_w"), time);
    const Pose brush = plan->place_of(named("brush"), time);
    // The edge of the bristles, 3 mm out and leaning by 30 deg, is at the glaze line of the cup.
    const Vector3 tip = brush * Vector3(0, 0, 0);
    const double beside = (tip - cup.position).head<2>().norm();
    CHECK(beside == Approx(0.032 + 0.003 * std::sin(30.0_deg)).margin(1e-5));
    CHECK(std::acos(brush.rotation(2, 2)) == Approx(60.0_deg).margin(1e-6));
    const Vector3 at_cup = cup.inverse() * tip;
    const double way = std::atan2(at_cup.y(), at_cup.x());
    if (i > 0) turned += std::remainder(way - last, 360.0_deg);
    last = way;
  }
  CHECK(std::abs(turned) == Approx(380.0_deg).margin(1e-5));
  // Pressed 1.5 mm into the cup is a no already when it is planned.
  std::ifstream file(DEMO_DIR "/band.routine.yaml");
  std::string text{std::istreambuf_iterator<char>(file), {}};
  const std::string edge = " - 3 mm * tan(lean)";
  text.erase(text.find(edge), edge.size());
  const auto deep = plan_routine(query, parse_routine(text, "f", cell));
  REQUIRE_FALSE(deep);
  CHECK_THAT(deep.reason().text,
             Contains("teasel.brush and wheel.cup_w may touch, but would be 1.5 mm deep"));
}

TEST_CASE("an arm that cannot lift paints the mark in one stroke") {
  const Cell cell = load_cell(DEMO_DIR "/tile.cell.yaml");
  const CellQuery query(cell, "sedge");
  const auto plan = plan_routine(query, load_routine(DEMO_DIR "/tile.routine.yaml", cell));
  REQUIRE(plan);
  CHECK(rehearse(cell, *plan, {.rate = 200.0}).passed());
  const DrawnError error = drawn_error(*plan, 0);
  CHECK(error.worst < 2e-4);
  CHECK(error.left_out < 2e-4);
  CHECK(error.length > 0.25);
  // Off the strokes the bristles are never over the tile, which they would mark.
  const PlannedStep& first = plan->steps.front();
  REQUIRE(first.step.drawing == -1);
  const Arm& arm = query.arm();
  for (int i = 0; i <= 300; ++i) {
    const Vector3 tip =
        tool_pose(arm, arm.tool({}), first.motion.at(first.duration() * i / 300).position).position;
    CHECK(tip.y() == Approx(0.074).margin(1e-9));
    const bool over = std::abs(tip.x() - 0.205) < 0.055 && tip.z() > 0.0 && tip.z() < 0.15;
    CHECK_FALSE(over);
  }
}

TEST_CASE("an arm that cannot lift paints a word in one stroke, whichever way it has to be held") {
  const Cell cell = load_cell(DEMO_DIR "/tile.cell.yaml");
  const CellQuery query(cell, "sedge");
  const auto check = [&](const Routine& routine) {
    const auto plan = plan_routine(query, routine);
    REQUIRE(plan);
    CHECK(rehearse(cell, *plan, {.rate = 200.0}).passed());
    const DrawnError error = drawn_error(*plan, 0);
    CHECK(error.worst < 2e-4);
    CHECK(error.left_out < 2e-4);
    return error.length;
  };
  // From the letters' measures: K both arms and what of the stem is above them twice, I twice, L
  // its stem twice, N the last leg twice; lines between and beside them.
  const double unit = 0.004;
  const double k = 6 + 3.6 + std::hypot(3.8, 3.6) * 2 - std::hypot(1.3, 1.2) + std::hypot(2.7, 3.6);
  const double letters = k + 12 + 12 + 3.2 + 6 + std::hypot(4.0, 6.0) + 12;
  const double length = check(load_routine(DEMO_DIR "/word.routine.yaml", cell));
  CHECK(length == Approx((letters + 3 * 1.6) * unit + 2 * 0.036).epsilon(0.02));
  // In other places the quickest end of one stroke is no way to begin the next.
  constexpr int kPlaces[][2] = {{14, -30}, {28, 20}};
  for (const auto& [height, at] : kPlaces) {
    if (kSanitized && height > 14) continue;
    check(parse_routine(
        fmt::format("elbowroom: routine/1\nclearance: 2 mm\nsteps:\n  - draw: {{text: KILN, "
                    "height: {} mm, lead: 36 mm, in: tile_face, at: [-31 mm, {} mm, 0], lift: "
                    "0}}\n    leave: {{turn: free}}\n    touch: [[sedge.brush, tile]]\n",
                    height, at),
        "word", cell));
  }
  const auto refused = [&](const std::string& draw, const std::string& why) {
    CHECK_THROWS_WITH(parse_routine("elbowroom: routine/1\nclearance: 2 mm\nsteps:\n  - draw: {" +
                                        draw + ", in: tile_face, at: [0, 0, 0]}\n",
                                    "word", cell),
                      Contains(why));
  };
  refused("text: KILN, height: 20 mm, lead: 10 mm, lift: 5 mm", "lead: is the line before");
  refused("text: KILN, height: 20 mm, lead: 0 mm, lift: 0", "a lead is longer than zero");
}

TEST_CASE("a trace is given as a table or as the one stroke of an SVG file") {
  const Cell cell = load_cell(DEMO_DIR "/tile.cell.yaml");
  const Folder folder;
  const auto svg = [&](const std::string& path) {
    return folder.write("a.svg",
                        "<svg xmlns='http://www.w3.org/2000/svg'><path d='" + path + "'/></svg>");
  };
  const auto read = [&](const std::string& file, const std::string& more = "") {
    return parse_routine("elbowroom: routine/1\nclearance: 2 mm\nsteps:\n  - trace: {svg: " + file +
                             ", width: 60 mm, in: tile_face, at: [-61 mm, -40 mm, 0]" + more +
                             "}\n    leave: {turn: free}\n    touch: [[sedge.brush, tile]]\n",
                         "f", cell);
  };
  const auto plan = plan_routine(CellQuery(cell, "sedge"),
                                 read(svg("M 0 60 C 20 60 30 50 40 35 C 48 23 66 8 84 6")));
  INFO((plan ? std::string() : plan.reason().text));
  REQUIRE(plan);
  CHECK(rehearse(cell, *plan, {.rate = 200.0}).passed());
  const Arm& arm = cell.arms().front();
  const Motion& trace = plan->steps.back().motion;
  const auto tip = [&](double time) {
    return Vector3(tool_pose(arm, arm.tool({}), trace.at(time).position).position);
  };
  CHECK((tip(0.0) - Vector3(0.144, 0.074, 0.04)).norm() < 1e-4);
  CHECK((tip(trace.duration()) - Vector3(0.204, 0.074, 0.04 + 0.06 * 54 / 84)).norm() < 1e-4);

  CHECK_THROWS_WITH(read(svg("M 0 0 L 40 0 L 10 5")), Contains("the trace has a cusp"));
  CHECK_THROWS_WITH(read(svg("M 0 0 L 40 0 M 60 0 L 90 0")), Contains("gap"));
  CHECK_THROWS_WITH(read(svg("M 0 0 L 40 0"), ", file: x.csv"), Contains("unknown key in a trace"));
  CHECK_THROWS_WITH(parse_routine("elbowroom: routine/1\nsteps:\n  - go: {stance: over_tile}\n"
                                  "    touch: [[sedge.brush, tile]]\n",
                                  "f", cell),
                    Contains("a free move touches nothing"));
}
