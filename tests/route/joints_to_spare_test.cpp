// Tool moves of arms with more joints than a pose asks for: what they have to spare is used where
// the joints that move least would not do.
#include <catch2/catch.hpp>

#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/curve_ranges.hpp"
#include "elbowroom/route/tool_ladder.hpp"
#include "support/chains.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;

namespace {

// On the path, from the start, within the ranges.
void check_curve(const Arm& arm, const Tool& tool, const Posture& start, const ToolCurve& curve) {
  CHECK_FALSE(leaves_ranges(curve.curve, arm));
  CHECK((curve.curve.at(0.0).position - start).norm() < 1e-9);
  const auto off = largest_deviation(arm, tool, curve.path, curve.curve, 7);
  CHECK(off.beside < 2e-4);
  CHECK(off.turned < 2e-3);
  const Pose end = tool_pose(arm, tool, curve.curve.at(curve.curve.duration()).position);
  CHECK(error_between(curve.path.at(curve.path.end()), end).position < 2e-4);
}

}  // namespace

TEST_CASE("seven joints follow lines that least motion of the joints would not") {
  const Cell cell = load_cell(DEMO_DIR "/bracken.cell.yaml");
  const CellQuery query(cell, "bracken");
  const Arm& arm = query.arm();
  const Tool tool = arm.end_tool("");
  CHECK(has_joints_to_spare(arm, tool));
  RandomStream random(7);
  PartPoses parts(query);
  int least_motion = 0, with_spare = 0;
  for (int asked = 0; asked < (kSanitized ? 6 : 60);) {
    Posture start(arm.dof());
    for (int k = 0; k < arm.dof(); ++k)
      start[k] = random.uniform(arm.search_lower()[k], arm.search_upper()[k]);
    if (!query.is_free(start, 0.005, parts)) continue;
    ++asked;
    const Pose from = tool_pose(arm, tool, start);
    const ToolLine line(from, {from.rotation, from.position + random_vector(random, 0.4)});
    const auto plain = follow_tool_path(query, start, tool.name, line);
    const auto freely = follow_freely(query, tool.name, line, {}, start);
    if (plain) {
      ++least_motion;
      check_curve(arm, tool, start, *plain);
      REQUIRE(freely);
    }
    if (!freely) continue;
    ++with_spare;
    check_curve(arm, tool, start, *freely);
  }
  INFO(least_motion << " and " << with_spare);
  CHECK((kSanitized || with_spare > least_motion + 2));
}

TEST_CASE("an arm on a rail follows a line that is longer than its reach") {
  ScrewChain chain = wrist_chain();
  chain.screws.insert(chain.screws.begin(), Screw{Vector3::UnitY(), Vector3::Zero(), false, 0});
  const Arm arm = arm_of(chain);
  const Cell cell = Cell::build({.name = "rail", .arms = {arm}});
  const CellQuery query(cell, arm.name());
  const Tool tool = arm.end_tool("");
  CHECK(has_joints_to_spare(arm, tool));
  CHECK_FALSE(has_joints_to_spare(arm.holding({{"base_to_l0", 0.0}}), tool));
  const auto line = [](double to) {
    const Matrix3 down = rotation_from_rpy(0, std::numbers::pi, 0);
    return ToolLine({down, {0.45, -0.9, 0.3}}, {down, {0.45, to, 0.3}});
  };
  ToolLadder ladder(query, tool.name, line(0.9), {});
  const auto curve = ladder.curve_near(arm.home_or_zero());
  REQUIRE(curve);
  const Posture begin = curve->curve.at(0.0).position;
  check_curve(arm, tool, begin, *curve);
  const double slid = curve->curve.at(curve->curve.duration()).position[0] - begin[0];
  CHECK(slid > 0.4);  // of 1.8 m the arm alone reaches 1.4
  // Beyond what rail and arm reach together it says how far it gets.
  const auto too_far = ToolLadder(query, tool.name, line(3.0), {}).curve_near(arm.home_or_zero());
  REQUIRE_FALSE(too_far);
  CHECK(too_far.reason().text.find("can be followed for") != std::string::npos);
}

TEST_CASE("a curve that would leave a range between its knots is a no that says which") {
  const Arm arm = arm_of(wrist_chain());
  const JointCurve beyond({CurvePiece(1.0, Quintics(6, Quintic{0, 13.0, -13.0, 0, 0, 0}))});
  const auto left = leaves_ranges(
      lines_through({Posture::Zero(6), Posture::Constant(6, 3.0)})
          .then(lines_through({Posture::Constant(6, 3.0), Posture::Constant(6, 3.5)})),
      arm);
  REQUIRE(left);
  CHECK(left->at == Approx(1.0));
  CHECK(left->what.find("joint base_to_l0 would be at") == 0);
  REQUIRE(leaves_ranges(beyond, arm));
  CHECK_FALSE(leaves_ranges(lines_through({Posture::Zero(6), Posture::Constant(6, 3.0)}), arm));
}
