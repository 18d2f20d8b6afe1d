// What the tool says to input that cannot mean anything: the exact message, exit code 2, no file.
#include <catch2/catch.hpp>
#include <cstdlib>
#include <nlohmann/json.hpp>

#include "run_tool.hpp"

using namespace er::test;
using Catch::Contains;
using nlohmann::json;

namespace {

void refused(const std::string& arguments, const std::string& message) {
  const Run run = tool(arguments);
  INFO(arguments);
  CHECK(run.exit == 2);
  CHECK(run.out.empty());
  CHECK_THAT(run.err, Contains(message));
}

}  // namespace

TEST_CASE("a misspelt verb, option or argument") {
  refused("rout glaze.cell.yaml",
          "elbowroom: unknown verb 'rout'\n  did you mean 'route'? known: inspect, where,");
  refused("where glaze.cell.yaml --att home", "unknown option '--att'\n  did you mean '--at'?");
  refused("where glaze.cell.yaml", "--at is required");
  refused("where", "CELL is required");
  refused("", "elbowroom: no verb is given\n  known: inspect, where, pairs, reach");
  refused("pairs glaze.cell.yaml more", "'more' is one argument too many");
  refused("inspect glaze.cell.yaml more", "one cell file at a time: 'more' is one more");
  refused("route glaze.cell.yaml --to home --seed x", "--seed");
  refused("route glaze.cell.yaml --to home --seed", "--seed");
}

TEST_CASE("a name that is not there") {
  refused("inspect glase.cell.yaml",
          "glase.cell.yaml: there is no such file, or it may not be read\n  did you mean "
          "'glaze.cell.yaml'?");
  refused("inspect .", "this is a folder, not a file");
  refused("where glaze.cell.yaml --at hoem",
          "--at: unknown stance of arm 'teasel' 'hoem'\n  did you mean 'home'?");
  refused("where glaze.cell.yaml --at home --tool grp",
          "--tool: unknown tool of arm 'teasel' 'grp'\n  did you mean 'grip'?");
  refused("where glaze.cell.yaml --at home --arm bracken",
          "--arm: unknown arm 'bracken'\n  known: teasel");
  refused("where glaze.cell.yaml --at home --in bord",
          "--in: unknown frame 'bord'\n  did you mean 'board'?");
  refused("reach glaze.cell.yaml --targets kiln.targets.yaml --target uper_2",
          "unknown target 'uper_2'\n  did you mean 'upper_2'?");
  refused("survey glaze.cell.yaml kiln.targets.yaml --from hme", "unknown stance");
  refused("pace glaze.cell.yaml --through 'home, kiln'",
          "--through: unknown stance of arm 'teasel' 'kiln'");
  refused("pace glaze.cell.yaml --to home --profile cubical",
          "--profile: unknown profile 'cubical'\n  did you mean 'cubic'? known: cubic, quintic, "
          "trapezoid, jerk-limited, time-optimal");
}

TEST_CASE("values that cannot be") {
  refused("where glaze.cell.yaml --at '1 deg, 2 deg'",
          "--at: found 2 joint values, arm 'teasel' has 6 moving joints");
  refused("where glaze.cell.yaml --at '1 mm, 0, 0, 0, 0, 0'",
          "--at: expected an angle (such as 90 deg), found '1 mm'");
  refused("where glaze.cell.yaml --at '1, 0, 0, 0, 0, 0'",
          "add the unit; only 0 may go without one");
  refused("where glaze.cell.yaml --at 'nan deg, 0, 0, 0, 0, 0'",
          "--at: 'nan deg' is not a finite number");
  refused("where glaze.cell.yaml --at '1e999 deg, 0, 0, 0, 0, 0'",
          "is a number too large or too small to hold");
  refused("reach glaze.cell.yaml --place '1 m, 2 m'",
          "--place: expected three values with commas between, found 2");
  refused("reach glaze.cell.yaml --place '1 m, 2 deg, 0'",
          "--place: expected a length (such as 350 mm), found '2 deg'");
  refused("reach glaze.cell.yaml", "no target is given");
  refused("reach glaze.cell.yaml --target upper_2",
          "--target names a target, but no target file is given");
  refused("reach glaze.cell.yaml --place '1 m, 0, 0' --clearance '-1 mm'",
          "--clearance: it must be zero or more");
  refused("reach glaze.cell.yaml --place '1 m, 0, 0' --starts 0",
          "--starts: expected 1 to 1000000, found 0");
  refused("route glaze.cell.yaml", "no end is given");
  refused("pace glaze.cell.yaml --through home",
          "a motion needs two different waypoints, found only one");
  refused("pace glaze.cell.yaml --through 'home, home'", "a motion needs two different waypoints");
  refused("pace glaze.cell.yaml --through 'home, before_kiln' --speed 0",
          "the speed must be above 0 and at most 100 %, found 0 %");
  refused("rehearse glaze.cell.yaml dip.routine.yaml --rate 0", "the rate must be above zero");
  refused("draw glaze.cell.yaml", "no file to draw to is given");
}

TEST_CASE("what would not be heeded is refused: in silence another question would be answered") {
  const std::string upper = "--targets kiln.targets.yaml --target upper_2";
  const std::string reach = "reach glaze.cell.yaml ";
  refused(reach + upper + " --place '1 m, 0, 0'", "--place and --target cannot go together");
  refused(reach + upper + " --rpy '0, 0, 0'", "--rpy says nothing without --place");
  refused(
      reach + upper + " --in cup_1",
      "--in says nothing without one of --place, --require\n  add one of these, or leave --in out");
  refused(reach + upper + " --tool grip", "--tool says nothing without one of --place");
  refused(reach + "--leave 'turn = free' --require 'distance: {from: [0, 0, 0], range: [0, 1 m]}'",
          "--leave says nothing without one of --place, --target");
  refused(reach + "--place '400 mm, 0, 700 mm' --targets kiln.targets.yaml",
          "--targets says nothing without --target");
  refused(reach + "--place '400 mm, 0, 700 mm' --pick 2", "--pick says nothing without --save");
  const std::string route = "route glaze.cell.yaml --from home --to before_kiln ";
  for (const char* option : {"--wish 'load = 1'", "--on place", "--off place", "--tool grip"})
    refused(route + option, "says nothing without one of ");
  refused("route glaze.cell.yaml --many stances.questions.yaml --from home",
          "--many and --from cannot go together");
  const std::string pace = "pace glaze.cell.yaml --from home --to before_kiln ";
  refused(pace + "--speeds '20 %'", "--speeds says nothing without one of --through, --waypoints");
  refused(pace + "--waits 'home = 1 s'", "--waits says nothing without");
  refused(pace + "--stray '1 mm'", "--stray says nothing without one of --straight, --arc");
  refused(pace + "--ends natural", "--ends says nothing without --polynomial");
  refused("pace glaze.cell.yaml --through 'home, before_kiln' --from over_board",
          "--through and --from cannot go together");
  refused("pace glaze.cell.yaml --through 'home, before_kiln' --time '1 s'",
          "--time and --through cannot go together");
  refused("follow glaze.cell.yaml --path stroke.path.csv --full '1 m/s'",
          "--full says nothing without --sticks");
  refused("rehearse glaze.cell.yaml ware.routine.yaml --profiles --unsure 'cup_1 = 2 mm'",
          "--profiles and --unsure cannot go together");
  refused("survey glaze.cell.yaml kiln.targets.yaml --no-routes --from home",
          "--from and --no-routes cannot go together");
  refused("inspect glaze.cell.yaml --at home", "--at says nothing without --joint");
  refused("inspect glaze.cell.yaml --arm teasel", "--arm says nothing without one of --recorded");
  refused("draw glaze.cell.yaml --dimensions --at home --out a.png",
          "--at and --dimensions cannot go together");
  refused("draw glaze.cell.yaml --step 2 --out a.png", "--step says nothing without --routine");
  refused("convert glaze.cell.yaml --arm teasel",
          "--arm says nothing: as links the whole cell is written");
  refused("convert glaze.cell.yaml --to robot_xml --base foot", "--base is of robot XML");
  refused("convert glaze.cell.yaml --other-arm teasel",
          "--other-arm says nothing without --same-as");
  const Folder folder;
  const std::string saved = folder / "route.json";
  REQUIRE(tool(route + "--out '" + saved + "'").exit == 0);
  CHECK(tool("audit glaze.cell.yaml '" + saved + "'").exit == 0);
  for (const char* option : {"--clearance '50 mm'", "--tool-speed '1 m/s'", "--jerk"})
    refused("audit glaze.cell.yaml '" + saved + "' " + option,
            "is of a motion: a route has no time, and is checked by its evidence");
}

TEST_CASE("a named target can be left open for one question") {
  const std::string reach = "reach glaze.cell.yaml --targets kiln.targets.yaml --target upper_2 ";
  const Run open = tool(reach + "--leave 'turn = free'");
  CHECK(open.exit == 0);
  CHECK_THAT(open.out, Contains("the target leaves open: free about its z"));
  CHECK_THAT(tool(reach + "").out, !Contains("free about its z"));
  refused(reach + "--off place --leave 'turn = free' --require '{room: {x: [0, 1 m]}}'",
          "--leave: 'upper_2' holds no place");
}

TEST_CASE("files that cannot be written leave nothing behind") {
  const Folder folder;
  refused("route glaze.cell.yaml --to before_kiln --out '" + (folder / "r.txt") + "'",
          "the ending '.txt' says no format that this verb writes\n  known: .csv");
  refused("route glaze.cell.yaml --to before_kiln --out '" + (folder / "no/r.csv") + "'",
          "does not exist");
  refused("draw glaze.cell.yaml --width 64 --height 64 --out '" + (folder / "no/p.png") + "'",
          "does not exist");
  refused(
      "pace glaze.cell.yaml --through 'home, before_kiln' --out '" + (folder / "no/p.png") + "'",
      "does not exist");
  CHECK(folder.count() == 0);
}

TEST_CASE("a refusal in JSON carries file, line and column") {
  const Folder folder;
  const std::string file = folder.write("bad.cell.yaml", "elbowroom: cell/1\nfixturs: []\n");
  const Run run = tool("inspect '" + file + "' --json");
  CHECK(run.exit == 2);
  const auto answer = nlohmann::json::parse(run.out);
  CHECK(answer["verdict"] == "bad input");
  CHECK(answer["error"]["line"] == 2);
  CHECK(answer["error"]["column"] == 1);
  CHECK(answer["error"]["message"] == "unknown key in a cell 'fixturs'");
}

TEST_CASE("help and version leave with 0, and every verb shows two examples") {
  CHECK(tool("--version").out == "elbowroom 0.1.0\n");
  CHECK(tool("--help").exit == 0);
  for (const char* verb :
       {"inspect", "where", "reach", "route", "pace", "rehearse", "survey", "draw", "demo"}) {
    const Run run = tool(std::string(verb) + " --help");
    CHECK(run.exit == 0);
    const std::string examples = run.out.substr(run.out.find("examples:"));
    const std::string call = std::string("\n  elbowroom ") + verb;
    const auto first = examples.find(call);
    REQUIRE(first != std::string::npos);
    CHECK(examples.find(call, first + 1) != std::string::npos);
  }
}

TEST_CASE("a cell with a fault inspects to a no, and JSON has no null in it") {
  const Folder folder;
  const std::string file = folder.write("odd.cell.yaml", R"(elbowroom: cell/1
arms:
  - name: stub
    links:
      - name: base
        parts: [{box: {size: [100 mm, 100 mm, 100 mm]}}]
      - name: pole
        joint: {axis: [0, 0, 1], range: [-90 rad, 90 rad], at: [0 mm, 0 mm, 50 mm]}
    stances: {home: [100 rad]}
)");
  const Run run = tool("inspect '" + file + "'");
  CHECK(run.exit == 1);
  CHECK_THAT(first_line(run.out), Contains("1 wrong, 3 missing, 2 odd"));
  CHECK_THAT(run.out, Contains("wrong   stub, stance home: joint base_to_pole would be at 5729.58 "
                               "deg, limit 5156.62 deg"));
  CHECK_THAT(run.out, Contains("odd     stub, joint base_to_pole: the range spans 28.6 turns"));
  CHECK_THAT(run.out, Contains("missing stub: it has no tool"));
  const Run as_json = tool("inspect '" + file + "' --json");
  CHECK(as_json.out.find("null") == std::string::npos);
  CHECK(nlohmann::json::parse(as_json.out)["verdict"] == "no");
}

TEST_CASE("the vector instructions are pinned by name, and change no answer") {
  const std::string question =
      "reach glaze.cell.yaml --targets kiln.targets.yaml --target upper_2 --json";
  const auto solutions = [&] { return json::parse(tool(question).out)["solutions"]; };
  const json best = solutions();
  CHECK(best.size() == 4);
  ::setenv("ELBOWROOM_SIMD", "scalar", 1);
  const json scalar = solutions();
  ::setenv("ELBOWROOM_SIMD", "skalar", 1);
  const Run wrong = tool(question.substr(0, question.size() - 7));
  ::unsetenv("ELBOWROOM_SIMD");
  CHECK(scalar == best);
  CHECK(wrong.exit == 2);
  CHECK_THAT(wrong.err, Contains("'skalar'") && Contains("did you mean 'scalar'?"));
}
