#include "elbowroom/files/routine_file.hpp"

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <fstream>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "support/demo.hpp"
#include "support/folder.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

std::string routine_fault(const std::string& rest) {
  try {
    parse_routine(
        "elbowroom: routine/1\ntargets:\n  - {name: a, position: [1 m, 0 m, 0 m]}\n" + rest, "f",
        demo_cell());
  } catch (const InputError& error) {
    return error.what();
  }
  return "no error";
}
std::string step_fault(const std::string& steps) { return routine_fault("steps:\n" + steps); }

Routine routine_with(const std::string& steps) {
  return parse_routine("elbowroom: routine/1\nsteps:\n" + steps, "f", demo_cell());
}

}  // namespace

TEST_CASE("the demo routine, step by step") {
  const Routine routine = load_routine(DEMO_DIR "/dip.routine.yaml", demo_cell());
  REQUIRE(routine.steps.size() == 10);
  CHECK(kind_of(routine.steps[0].action) == "free move");
  CHECK(kind_of(routine.steps[1].action) == "straight line");
  CHECK(routine.steps[1].clearance == Approx(0.004));
  CHECK(routine.steps[1].speed == Approx(0.4));
  const auto& home = std::get<FreeMove>(routine.steps[9].action);
  CHECK(std::get<AtStance>(home.to.at(0)).name == "home");
  CHECK(routine.steps[9].name == "go to home");
  CHECK(routine.clearance == 0.005);
  REQUIRE(routine.steps[3].keep.size() == 1);
  CHECK(routine.steps[3].keep[0].name == "upright");
  CHECK(routine.steps[3].improve == 10);
  CHECK(routine.steps[0].keep.empty());
}

TEST_CASE("routines that round corners") {
  CHECK(routine_fault("profile: time-optimal\nround: 5 deg\nsteps:\n  - {go: {target: a}}\n") ==
        "no error");
  CHECK(routine_fault("round: 5 deg\nsteps:\n  - {go: {target: a}}\n")
            .find("only profile time-optimal goes round corners") != std::string::npos);
  CHECK(routine_fault("profile: time-optimal\nround: 5 kg\nsteps:\n  - {go: {target: a}}\n")
            .find(":5:8: how far a rounded corner may be off is an angle or a length") !=
        std::string::npos);
}

TEST_CASE("faults in routine files") {
  CHECK(routine_fault("steps: []\n") == "f:4:8: a routine needs at least one step");
  CHECK(routine_fault("") == "f:1:1: a routine file needs the key 'steps'");
  CHECK(routine_fault("steps:\n  - go: {target: b}\n")
            .find("f:5:18: unknown target 'b'\n  did you mean 'a'?") == 0);
  CHECK(routine_fault("steps:\n  - go: {stance: hom}\n")
            .find("f:5:18: unknown stance of arm 'teasel' 'hom'\n  did you mean 'home'?") == 0);
  CHECK(routine_fault("steps:\n  - line: {stance: home}\n")
            .find("f:5:12: unknown key in a straight move 'stance'") == 0);
  CHECK(routine_fault("steps:\n  - {go: {target: a}, line: {target: a}}\n")
            .find("f:5:5: a step does one thing, found go and line") == 0);
  CHECK(routine_fault("speed: 0 %\nsteps: []\n")
            .find("f:4:8: expected a speed above 0 % and at most 100 %, found '0 %'") == 0);
  CHECK(routine_fault("speed: 50\nsteps: []\n")
            .find("expected a speed above 0 % and at most 100 %, found '50'") != std::string::npos);
  CHECK(routine_fault("profile: cubical\nsteps: []\n").find("f:4:10: unknown profile 'cubical'") ==
        0);
  CHECK(routine_fault("seed: 1.5\nsteps: []\n") ==
        "f:4:7: a seed is a whole number, zero or above");
  CHECK(routine_fault("clearance: -1 mm\nsteps: []\n") ==
        "f:4:12: a clearance must be zero or more");
  CHECK(
      routine_fault("steps:\n  - {line: {target: a}, keep: [{room: {x: [0 m, 1 m]}}]}\n")
          .find("only free moves have a choice of way: but for speeds of frames 'keep' is for go, "
                "take and put") != std::string::npos);
  CHECK(routine_fault("steps:\n  - {line: {target: a}, keep: [{speed: 100 mm/s}]}\n") ==
        "no error");
  CHECK(routine_fault("steps:\n  - {wait: 1 s, keep: [{speed: 100 mm/s}]}\n") ==
        "f:5:23: 'keep' is of moves");
  CHECK(routine_fault("steps:\n  - go: {target: a}\n    keep: [{direction: {axis: z, along: [0, 0, "
                      "1]}}]\n")
            .find("f:6:12: rule 'direction 1' holds a direction exactly") == 0);
  CHECK(routine_fault("steps:\n  - {go: {target: a}, cost: {tol: 1}}\n")
            .find("did you mean 'tool'?") != std::string::npos);
  CHECK(routine_fault("steps:\n  - {go: {target: a}, improve: -1}\n").find("zero or above") !=
        std::string::npos);
  CHECK(routine_fault("start: over\nsteps: []\n")
            .find("f:4:8: unknown stance of arm 'teasel' 'over'") == 0);
}

TEST_CASE("every kind of step") {
  const Routine routine = routine_with(R"yaml(
  - go: {stance: [home, over_board]}
  - go: start
  - take: {piece: cup_2, grasps: slanted, from: 80 mm, raise: 40 mm, takes: 0.3 s}
    speed: 50 %
  - line: {by: [0, 0, 50 mm], in: tool, rpy: [0, 0, 90 deg]}
  - turn: {axis: x, at: [0, 0, 10 mm], in: tool, by: 40 deg}
  - circle: {at: [0, 0, 0], in: bucket, by: -90 deg}
  - turn_joints: {wrist_turn: 20 deg}
  - wait: 1.5 s
  - put: {piece: cup_2, in: upper_shelf, at: [0, -70 mm, 0], turn: [-30 deg, 30 deg]}
    touch: [[teasel.gripper, kiln]]
    name: set down
)yaml");
  std::vector<std::string> names;
  for (const Step& step : routine.steps) names.push_back(step.name);
  CHECK(names == std::vector<std::string>{"go to home or over_board", "go back to the start",
                                          "go before cup_2", "in to cup_2", "grip cup_2",
                                          "raise cup_2", "line along tool", "turn", "circle",
                                          "turn wrist_turn", "wait", "set down: carry cup_2",
                                          "set down: lower cup_2", "set down: release cup_2",
                                          "set down: back off cup_2"});
  CHECK(std::get<FreeMove>(routine.steps[0].action).to.size() == 2);
  const auto& before = std::get<AtGrasp>(std::get<FreeMove>(routine.steps[2].action).to.front());
  CHECK(before.grasps == std::vector<std::string>{"slanted"});
  CHECK(before.back == 0.08);
  CHECK(routine.steps[3].contacts.meets == "cup_2");
  CHECK(routine.steps[3].speed == Approx(0.5));
  CHECK(std::get<Grip>(routine.steps[4].action).takes == 0.3);
  CHECK(routine.steps[5].contacts.leaves == "cup_2");
  const auto& turned = std::get<RelativeMove>(routine.steps[6].action);
  CHECK((turned.turned * Vector3::UnitX() - Vector3::UnitY()).norm() < 1e-12);
  CHECK(std::get<TurnMove>(routine.steps[7].action).tool_turns);
  CHECK_FALSE(std::get<TurnMove>(routine.steps[8].action).tool_turns);
  const auto& over = std::get<PieceAt>(std::get<FreeMove>(routine.steps[11].action).to.front());
  CHECK((over.at.position - Vector3(0.25, -0.625, 0.77)).norm() < 1e-12);
  CHECK(over.turn.upper == Approx(0.5235987756));
  CHECK(routine.steps[14].contacts.meets == "cup_2");
}

TEST_CASE("steps in groups, repeated over a grid, and switched off") {
  const Routine routine = routine_with(R"yaml(
  - each: {row: 0 to 1, column: 0 to 1}
    makes:
      of: cup_(3 * row + column + 1)
      steps:
        - {take: "cup_(3 * row + column + 1)", on: no}
        - go: {stance: over_board}
  - go: {stance: home}
)yaml");
  REQUIRE(routine.steps.size() == 4 * 5 + 1);
  CHECK(routine.steps[5].of == "cup_2");
  CHECK(routine.steps[15].of == "cup_5");
  CHECK_FALSE(routine.steps[15].on);
  CHECK(routine.steps[19].on);
  CHECK(routine.steps[20].of.empty());
}

TEST_CASE("steps that cannot mean anything, with their place") {
  CHECK(step_fault("  - grip: cup_9\n").find("f:5:5: unknown piece 'cup_9'\n  did you mean") == 0);
  CHECK(step_fault("  - release: cup_1\n") ==
        "f:5:5: 'cup_1' is not held: the arm holds nothing then\n  grip it in a step before");
  CHECK(step_fault("  - grip: cup_1\n  - grip: cup_1\n") ==
        "f:6:5: 'cup_1' is held already\n  release it in a step before");
  CHECK(step_fault("  - grip: cup_1\n  - release: cup_2\n")
            .find("f:6:5: 'cup_2' is not held: the arm holds cup_1 then") == 0);
  CHECK(step_fault("  - take: {piece: cup_1, grasps: above}\n")
            .find("f:5:5: unknown grasp of piece 'cup_1' 'above'") == 0);
  CHECK(step_fault("  - wait: 0 s\n") == "f:5:5: a wait (s) must be above zero, found 0");
  CHECK(step_fault("  - wait: 20 mm\n").find("f:5:11: expected a time") == 0);
  CHECK(step_fault("  - turn_joints: {elbw: 20 deg}\n").find("did you mean 'elbow'?") !=
        std::string::npos);
  CHECK(step_fault("  - turn_joints: {elbow: 20 mm}\n").find("f:5:26: expected an angle") == 0);
  CHECK(step_fault("  - circle: {by: 90 deg}\n").find("f:5:13: a circle needs its middle") == 0);
  CHECK(step_fault("  - turn: {axis: z}\n").find("f:5:11: a turn needs its angle") == 0);
  CHECK(step_fault("  - line: {by: [0, 0, 1 mm], in: tol}\n").find("f:5:34: unknown frame 'tol'") ==
        0);
  CHECK(step_fault("  - go: {piece: cup_1, at: [0, 0, 0]}\n")
            .find("f:5:5: 'cup_1' is not held: the arm holds nothing then") == 0);
  CHECK(step_fault("  - {wait: 1 s, tool: grap}\n").find("did you mean 'grip'?") !=
        std::string::npos);
  CHECK(step_fault("  - {wait: 1 s, steady: yes}\n")
            .find("f:5:25: a steady speed needs to be said") == 0);
  CHECK(step_fault("  - {wait: 1 s, touch: [[teasel.gripper, cup_11]]}\n").find("'cup_11'") !=
        std::string::npos);
  CHECK(step_fault("  - {name: nothing}\n").find("f:5:5: this step does not say what it does") ==
        0);
  CHECK(step_fault("  - {go: start, on: no}\n").find("f:5:3: all steps of the routine are off") ==
        0);
  CHECK(step_fault("  - of: cups\n    steps: []\n") == "f:6:12: a group needs at least one step");
  CHECK(step_fault("  - each: {n: []}\n    makes: {wait: 1 s}\n")
            .find("there is nothing to go through") != std::string::npos);
  CHECK(step_fault("  - trace: {file: none.csv}\n").find("f:5:19: ") == 0);
}

TEST_CASE("traces with a gap, a cusp, or one pose") {
  const Folder folder;
  const auto trace_fault = [&](const std::string& rows) {
    std::ofstream(folder / "t.csv") << "x mm,y mm,z mm,roll deg,pitch deg,yaw deg\n" << rows;
    return step_fault("  - trace: {file: " + (folder / "t.csv") + "}\n");
  };
  std::string even;
  for (int i = 0; i < 20; ++i) even += fmt::format("{},0,700,180,0,0\n", 300 + 2 * i);
  CHECK(trace_fault(even) == "no error");
  CHECK(trace_fault(even + "500,0,700,180,0,0\n")
            .find("f:5:19: the trace has a gap of 162.0 mm between poses 20 and 21; others are 2.0 "
                  "mm apart") == 0);
  CHECK(trace_fault(even + "330,0,700,180,0,0\n")
            .find("f:5:19: the trace has a cusp at pose 20: it turns by 180.00 deg") == 0);
  CHECK(trace_fault("300,0,700,180,0,0\n").find("two poses or more, found 1") != std::string::npos);
  CHECK(step_fault("  - draw: {text: \"A?\", height: 20 mm, at: [0, 0, 0]}\n")
            .find("f:5:18: the stroke font has no '?'") == 0);
  CHECK(step_fault("  - draw: {text: A, svg: b.svg, at: [0, 0, 0]}\n")
            .find("f:5:11: a drawing is either a text or an SVG file") == 0);
  std::ofstream(folder / "two.svg") << "<svg xmlns='http://www.w3.org/2000/svg'><path d='M0,0 "
                                       "L10,0'/><path d='M12,0 L20,5'/></svg>";
  CHECK(step_fault("  - draw: {svg: " + (folder / "two.svg") +
                   ", width: 20 mm, at: [0, 0, 0], lift: 0}\n")
            .find("this is not one stroke: there is a gap of 2.0 mm from (10.0, 5.0) mm to (12.0, "
                  "5.0) mm") != std::string::npos);
}
