// Rules checked by other means than the planner's: what these call kept holds at every sample, and
// nothing that the planner proves is refused.
#include "elbowroom/rehearse/check_rules.hpp"

#include <catch2/catch.hpp>
#include <numbers>

#include "elbowroom/base/random.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/route/rules.hpp"
#include "support/cells.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

std::vector<Requirement> rules_about(const Vector3& place) {
  AtPlace flat{.at = Pose::at(place)};
  flat.along = {Band{-0.4, 0.4}, Band{-0.4, 0.4}, Band{-0.3, 0.3}};
  flat.tilt = 0.9;
  flat.turn = Band::free();
  InRoom room{.at = Pose::at(place)};
  room.along = {Band{-0.35, 0.5}, Band::free(), Band{-0.3, 0.6}};
  InRoom whole = room;
  whole.whole_link = true;
  return {{.name = "level",
           .holds = InDirection{.along = -Vector3::UnitZ(), .angle = Band::up_to(0.5)}},
          {.name = "aside", .holds = InDirection{.along = Vector3::UnitX(), .angle = {0.6, 2.6}}},
          {.name = "looking",
           .holds = InDirection{.at_point = true,
                                .point = place + Vector3(0, 0, -0.5),
                                .angle = Band::up_to(0.7)}},
          {.name = "range", .holds = AtDistance{.point = place, .range = {0.05, 0.45}}},
          {.name = "flat", .holds = flat},
          {.name = "room", .holds = room},
          {.name = "whole", .of = "gripper", .holds = whole},
          {.name = "waist", .holds = JointBands{{{.joint = "waist", .value = {-1.2, 1.2}}}}}};
}

}  // namespace

TEST_CASE("rules checked: a yes holds at every sample, a no is close to broken") {
  RandomStream random(951);
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  const Arm& arm = query.arm();
  int yes = 0;
  int no = 0;
  for (int n = 0; n < (kSanitized ? 20 : 300); ++n) {
    const Posture from = random_posture(random, arm);
    const Posture to = from + 0.25 * (random_posture(random, arm) - from);
    const Vector3 place = tool_pose(arm, arm.tools().front(), 0.5 * (from + to)).position;
    for (const Requirement& rule : rules_about(place)) {
      INFO(rule.name << ", round " << n);
      const auto checked = check_rules(arm, {rule}, {from, to});
      const Rules planner(query, {rule});
      const bool planned = planner.broken_between(from, to) < 0;
      if (planned) CHECK(checked);
      const Target alone = Target{}.require(rule);
      const TargetOnArm on_arm(arm, alone);
      double worst = 0.0;
      for (int i = 0; i <= 200; ++i) {
        const Posture q = from + (to - from) * (i / 200.0);
        if (on_arm.size() > 0) {
          const TargetOnArm::Error off = on_arm.error_of(0, q);
          worst = std::max({worst, off.position, off.angle});
        }
        worst = std::max({worst, (on_arm.lower() - q).maxCoeff(), (q - on_arm.upper()).maxCoeff()});
      }
      ++(checked ? yes : no);
      if (checked)
        CHECK(worst <= 1.1e-6);
      else
        CHECK(worst > 1e-7);
    }
  }
  CHECK(yes > (kSanitized ? 10 : 200));
  CHECK(no > (kSanitized ? 10 : 200));
}

TEST_CASE("rules checked: where one is broken, and which") {
  const Arm arm = load_cell(DEMO_DIR "/glaze.cell.yaml").arm("teasel");
  const Posture board = arm.stance("over_board");
  Posture tipped = board;
  tipped[4] -= 0.6;
  const Requirement level{
      .name = "level", .holds = InDirection{.along = -Vector3::UnitZ(), .angle = Band::up_to(0.2)}};
  CHECK(check_rules(arm, {level}, {board, board})->rules == 1);
  const auto checked = check_rules(arm, {level}, {board, board, tipped});
  REQUIRE_FALSE(checked);
  CHECK(checked.reason().cause == Cause::not_proved);
  CHECK_THAT(checked.reason().text,
             Contains("rule 'level' is not kept at") && Contains("of move 2: off by"));
  Requirement off = level;
  off.on = false;
  CHECK(check_rules(arm, {off}, {board, tipped})->rules == 0);
  const Requirement band{.name = "bend",
                         .holds = JointBands{{{.joint = "wrist_bend", .value = {1.0, 2.0}}}}};
  CHECK_THAT(check_rules(arm, {band}, {board, tipped}).reason().text,
             Contains("joint wrist_bend leaves the band of a rule at waypoint 2"));
}
