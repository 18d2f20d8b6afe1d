// Whole tool moves over all branches and turns, against following each start by itself.
#include "elbowroom/route/tool_ladder.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/reach/reach.hpp"
#include "support/cells.hpp"
#include "support/demo.hpp"
#include "support/postures.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

const CellQuery& teasel() {
  static const CellQuery query(demo_cell(), "teasel");
  return query;
}

// A wavy way over the middle of the cell, the tool pointing down.
ToolTrace wave(double length = 0.5) {
  std::vector<Pose> poses;
  for (int i = 0; i < 60; ++i) {
    const double t = i / 59.0;
    Pose pose;
    pose.rotation = rotation_from_rpy(std::acos(-1.0), 0.0, 0.0);
    pose.position = {0.42 + 0.1 * std::sin(6.0 * t), -0.25 + length * t, 0.78};
    poses.push_back(pose);
  }
  return ToolTrace(poses);
}

// What a curve takes at least, by the velocity limits.
double least_time(const Arm& arm, const JointCurve& curve) {
  constexpr int kSteps = 400;
  double sum = 0.0;
  for (int i = 0; i < kSteps; ++i) {
    const Posture step = curve.at(curve.duration() * (i + 1) / kSteps).position -
                         curve.at(curve.duration() * i / kSteps).position;
    sum += (step.cwiseAbs().array() / arm.limits().velocity.array()).maxCoeff();
  }
  return sum;
}

void check_curve(const CellQuery& query, const ToolPath& path, const ToolCurve& curve,
                 double largest_tilt) {
  const Arm& arm = query.arm();
  const Tool tool = arm.end_tool(curve.tool);
  constexpr int kSamples = kSanitized ? 100 : 600;
  Posture before = curve.curve.at(0.0).position;
  for (int i = 0; i <= kSamples; ++i) {
    const double at = path.end() * i / kSamples;
    const Posture posture = curve.curve.at(at).position;
    const Pose tip = tool_pose(arm, tool, posture);
    const Pose wanted = path.at(at);
    CHECK((tip.position - wanted.position).norm() < 2e-4);
    const double lean = std::acos(std::min(1.0, tip.rotation.col(2).dot(wanted.rotation.col(2))));
    CHECK(lean < largest_tilt + 2e-3);
    CHECK((posture - before).cwiseAbs().maxCoeff() < 30.0 / kSamples);  // no jump
    CHECK(arm.limit_breach(posture).empty());
    CHECK(query.nearest(posture).distance > curve.clearance);
    before = posture;
  }
}

}  // namespace

TEST_CASE("a trace with a free turn: followed whole, and no single start and turn is quicker") {
  const ToolPath path = wave();
  ToolLadder ladder(teasel(), "grip", path, {.turn = Band::free()});
  const auto curve = ladder.curve_near(teasel().arm().stance("home"));
  REQUIRE(curve);
  check_curve(teasel(), path, *curve, 0.0);
  // Each posture to begin in, at each of a few turns, followed by itself.
  const double found = least_time(teasel().arm(), curve->curve);
  int followed = 0;
  for (int turn = 0; turn < 12; turn += kSanitized ? 4 : 1) {
    const Pose first = path.at(0.0);
    const Matrix3 turned = rotation_about(Vector3::UnitZ(), turn * 0.5235987756);
    Target target;
    target.place("grip", Pose{first.rotation * turned, first.position}).within(1e-9, 1e-9);
    const auto reached = reach(teasel(), target, {.find_remedies = false});
    if (!reached) continue;
    const ToolPath fixed = ToolFreed(path, lines_through({values({0, 0, turn * 0.5235987756}),
                                                          values({0, 0, turn * 0.5235987756})})
                                               .stretched(path.end()));
    for (const Posture& start : reached->postures()) {
      const auto alone = follow_tool_path(teasel(), start, "grip", fixed);
      if (!alone) continue;
      ++followed;
      CHECK(found <= 1.03 * least_time(teasel().arm(), alone->curve));
    }
  }
  CHECK(followed > (kSanitized ? 2 : 10));
}

TEST_CASE("from a posture that is given, the ladder begins just there") {
  const ToolPath path = wave(0.3);
  ToolLadder ladder(teasel(), "grip", path, {.turn = Band{-0.4, 0.4}});
  const std::vector<Posture> starts = ladder.starts(teasel().arm().stance("home"), 4);
  REQUIRE(starts.size() >= 2);
  for (const Posture& start : starts) {
    const auto curve = ladder.curve_from(start);
    REQUIRE(curve);
    CHECK((curve->curve.at(0.0).position - start).norm() < 1e-12);
    check_curve(teasel(), path, *curve, 0.0);
    // The band is kept at the end, too.
    const Pose last = tool_pose(teasel().arm(), teasel().arm().tool("grip"),
                                curve->curve.at(path.end()).position);
    const Matrix3 off = path.at(path.end()).rotation.transpose() * last.rotation;
    CHECK(std::abs(std::atan2(off(1, 0), off(0, 0))) < 0.4 + 1e-6);
  }
  Posture elsewhere = starts.front();
  elsewhere[0] += 0.1;
  CHECK_THROWS_WITH(ladder.curve_from(elsewhere), Contains("does not begin on the trace"));
  CHECK_THROWS_AS(ToolLadder(teasel(), "grip", path, {.tilt = -0.1}), InputError);
  CHECK_THROWS_AS(ToolLadder(teasel(), "grip", path, {.turn = Band{1.0, 0.0}}), InputError);
}

TEST_CASE("a tool that may lean does so within its cone") {
  const ToolPath path = wave(0.2);
  ToolLadder ladder(teasel(), "grip", path, {.turn = Band::free(), .tilt = 0.2, .turns = 12});
  const auto curve = ladder.curve_near(teasel().arm().stance("home"));
  REQUIRE(curve);
  check_curve(teasel(), path, *curve, 0.2);
}

TEST_CASE("seven joints, and an arm without a closed form") {
  const CellQuery bracken(load_cell(DEMO_DIR "/bracken.cell.yaml"), "bracken");
  const Posture home = bracken.arm().stance("home");
  const Pose at = tool_pose(bracken.arm(), bracken.arm().end_tool(), home);
  const ToolPath line = ToolLine(at, {at.rotation, at.position + Vector3(0.12, 0.15, 0.1)});
  ToolLadder seven(bracken, "peel_end", line, {}, {.clearance = 0.001});
  const auto curve = seven.curve_near(home);
  INFO((curve ? std::string() : curve.reason().text));
  REQUIRE(curve);
  check_curve(bracken, line, *curve, 0.0);

  // Two joints that follow each other keep an arm from having one.
  const Arm slides = Arm::build({.name = "plotter",
                                 .links = {{.name = "base"},
                                           sliding("x", {0, 0, 0}, Vector3::UnitX()),
                                           sliding("y", {0, 0, 0}, Vector3::UnitY()),
                                           sliding("z", {0, 0, 0}, Vector3::UnitZ()),
                                           turning("turn", {0, 0, 0}, Vector3::UnitZ())},
                                 .tools = {{.name = "pen"}}});
  const CellQuery query(Cell::build({.arms = {slides}}), "plotter");
  const ToolPath stroke = ToolLine(Pose::at({0, 0, 0}), Pose::at({0.2, 0.1, 0}));
  ToolLadder numeric(query, "pen", stroke, {.turn = Band::free(), .turns = 8});
  const auto drawn = numeric.curve_near(Posture::Zero(4));
  REQUIRE(drawn);
  check_curve(query, stroke, *drawn, 0.0);
}

TEST_CASE("what cannot be done whole says how far, why, and what would do") {
  // Out of the arm's reach half-way, whatever is left open.
  const Pose down{rotation_from_rpy(std::acos(-1.0), 0.0, 0.0), {0.45, -0.2, 0.7}};
  const ToolPath away = ToolLine(down, {down.rotation, {1.4, -0.2, 0.7}});
  ToolLadder ladder(teasel(), "grip", away, {.turn = Band::free()});
  const auto no = ladder.curve_near(teasel().arm().stance("home"));
  REQUIRE_FALSE(no);
  CHECK_THAT(no.reason().text,
             Contains("no: the straight line can be followed for ") && Contains(" of the way"));
  double share = 0.0;
  for (const Figure& figure : no.reason().figures)
    if (figure.name == "followed") share = figure.value;
  CHECK(share > 0.1);
  CHECK(share < 0.9);
  CHECK(ladder.starts(teasel().arm().stance("home"), 8).empty());

  // A line on which the joint of one branch runs out, and others do not.
  Target first;
  first.place("grip", down).within(1e-9, 1e-9);
  const auto reached = reach(teasel(), first);
  REQUIRE(reached);
  int refused = 0;
  for (const Posture& start : reached->postures()) {
    const ToolPath spin = ToolTurn(down, down.position, Vector3::UnitZ(), 4.0, true);
    const auto alone = follow_tool_path(teasel(), start, "grip", spin);
    if (alone) continue;
    ++refused;
    const auto remedies = ways_to_do_whole(teasel(), "grip", spin, start);
    REQUIRE_FALSE(remedies.empty());
    CHECK_THAT(remedies.front().text, Contains("begin in posture ") || Contains("open along"));
  }
  CHECK(refused > 0);
}

TEST_CASE(
    "among things that stand in the way a path is followed whenever some start can follow it") {
  const ToolPath path = wave(0.3);
  const Posture home = teasel().arm().stance("home");
  Target first;
  first.place("grip", path.at(0.0)).within(1e-9, 1e-9);
  RandomStream random(8);
  int yes = 0;
  int no = 0;
  for (int round = 0; round < (kSanitized ? 6 : 24); ++round) {
    CellDescription changed = demo_cell().description();
    const Vector3 at(random.uniform(0.0, 0.5), random.uniform(-0.4, 0.4), random.uniform(0.7, 1.2));
    changed.fixtures.push_back(
        {.name = "ball", .at = Pose::at(at), .parts = {{.shape = Sphere{0.05}}}});
    const CellQuery query(Cell::build(changed), "teasel");
    const auto curve = ToolLadder(query, "grip", path, {}).curve_near(home);
    const auto reached = reach(query, first, {.clearance = 0.005});
    bool any = false;
    if (reached)
      for (const Posture& start : reached->postures())
        any = any || follow_tool_path(query, start, "grip", path);
    CHECK(static_cast<bool>(curve) == any);
    if (curve) check_curve(query, path, *curve, 0.0);
    if (!curve) CHECK_THAT(curve.reason().text, Contains("too near something"));
    ++(curve ? yes : no);
  }
  CHECK(yes > 0);
  CHECK(no > (kSanitized ? 0 : 3));
}
