// What the tool says of closed forms, saves, draws to dimension, keeps between runs, and does in
// zones that cap speeds: driven as a user would.
#include <catch2/catch.hpp>
#include <cstdlib>

#include "run_tool.hpp"
#include "support/sanitized.hpp"

using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;
using nlohmann::json;

namespace {

const std::string kPlace = "--place '400 mm, 0 mm, 700 mm' --rpy '180 deg, 0 deg, 0 deg'";

std::string demo_file(const char* name) { return read_file(std::string(DEMO_DIR) + "/" + name); }

// A copy of the demo cell with a zone in front of the kiln.
std::string with_zone(const Folder& folder, const std::string& speed) {
  std::string text = demo_file("glaze.cell.yaml");
  const std::string zone =
      "\nzones:\n  - {name: walkway, at: [500 mm, -500 mm, 600 mm], speed: " + speed +
      ", parts: [{box: {size: [600 mm, 500 mm, 1200 mm]}}]}\n";
  text.insert(text.find("\ncontacts:"), zone);
  return folder.write("zone.cell.yaml", text);
}

}  // namespace

TEST_CASE("pace: lines are slowed for a zone, and a polynomial that is too fast for it is a no") {
  const Folder folder;
  const std::string ask =
      "pace '" + with_zone(folder, "100 mm/s") + "' --through 'home, before_kiln' ";
  const Run lines = tool(ask + "--profile time-optimal");
  CHECK(lines.exit == 0);
  CHECK_THAT(lines.out, Contains("keeps the speed cap of zone walkway"));
  const Run polynomial = tool(ask + "--polynomial quintic");
  CHECK(polynomial.exit == 1);
  CHECK_THAT(first_line(polynomial.out), StartsWith("no: ") &&
                                             Contains("% of a zone's speed cap: teasel.") &&
                                             Contains("walkway"));
  CHECK(tool(ask + "--polynomial quintic --durations '60 s'").exit == 0);
}

TEST_CASE("inspect says which solver each tool gets, and why") {
  CHECK_THAT(tool("inspect glaze.cell.yaml").out,
             Contains("targets of teasel.grip: spherical wrist (axes 4, 5 and 6 meet in one point; "
                      "axes 2 and 3 parallel)"));
  CHECK_THAT(tool("inspect bracken.cell.yaml").out,
             Contains("targets of bracken.peel_end: shoulder and wrist of seven joints"));
  CHECK_THAT(tool("inspect sedge.cell.yaml").out,
             Contains("parallel axes (all axes are parallel: 3 turn)"));
  const json answer = json::parse(tool("inspect glaze.cell.yaml --json").out);
  REQUIRE(answer["solvers"].size() == 1);
  CHECK(answer["solvers"][0]["tool"] == "teasel.grip");
}

TEST_CASE("reach: all postures by branches, and how exact they are") {
  const Run run = tool("reach glaze.cell.yaml " + kPlace);
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out), StartsWith("yes: 4 postures reach it"));
  CHECK_THAT(run.out, Contains("front, up, +"));
  CHECK_THAT(run.out, Contains("spherical wrist: all postures there are; 6 more beyond the joint "
                               "ranges"));
  CHECK_THAT(run.out, Contains("by forward kinematics no posture is further off than"));
  const json answer = json::parse(tool("reach glaze.cell.yaml " + kPlace + " --json").out);
  CHECK(answer["form"] == "spherical wrist");
  CHECK(answer["complete"] == true);
  CHECK(answer["starts"] == 0);
  CHECK(answer["beyond_limits"] == 6);
  for (const json& one : answer["solutions"]) {
    CHECK(one["position_error"].get<double>() < 1e-9);
    CHECK_FALSE(one["branch"].get<std::string>().empty());
    CHECK(one["free_joint"] == "");
  }
}

TEST_CASE("reach: a singular place names the joint that may turn") {
  // Over the waist's own axis: it may turn, the wrist giving way.
  const Run run = tool("reach glaze.cell.yaml --place '0 mm, 0 mm, 1500 mm' --rpy '0, 0, 0'");
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, Contains("singular: waist may be turned freely"));
}

TEST_CASE("reach --save: the posture is a stance from then on, and nothing else changed") {
  const Folder folder;
  const std::string text = demo_file("glaze.cell.yaml");
  const std::string file = folder.write("glaze.cell.yaml", text);
  const Run run = tool("reach '" + file + "' " + kPlace + " --save over_stool --pick 2 --json");
  CHECK(run.exit == 0);
  const json saved = json::parse(run.out)["solutions"][1]["posture"];
  const json there = json::parse(tool("where '" + file + "' --at over_stool --json").out);
  for (std::size_t k = 0; k < 6; ++k)
    CHECK(there["posture"][k].get<double>() == Approx(saved[k].get<double>()).margin(1e-11));
  CHECK(there["pose"]["position"][0].get<double>() == Approx(0.4).margin(1e-9));
  CHECK(there["pose"]["position"][2].get<double>() == Approx(0.7).margin(1e-9));
  const std::string now = read_file(file);
  const std::size_t begin = now.find("over_stool: [");
  REQUIRE(begin != std::string::npos);
  std::string without = now;
  without.erase(begin, now.find("home: [", begin) - begin);
  CHECK(without == text);
  const Run again = tool("reach '" + file + "' " + kPlace + " --save over_stool");
  CHECK(again.exit == 2);
  CHECK_THAT(again.err, Contains("has a stance 'over_stool' already"));
  CHECK(read_file(file) == now);
  CHECK_THAT(tool("reach '" + file + "' " + kPlace + " --save other --pick 9").err,
             Contains("--pick: expected 1 to 4, found 9"));
}

TEST_CASE("draw --dimensions: the sheet's figures, printed and drawn") {
  const Folder folder;
  const std::string file = folder / "teasel.svg";
  const Run run = tool("draw glaze.cell.yaml --dimensions --out '" + file + "'");
  CHECK(run.exit == 0);
  CHECK(first_line(run.out) == "dimensions of teasel with every joint at zero");
  CHECK_THAT(run.out, Contains("waist") && Contains("400.00"));
  for (const char* figure : {">340<", ">400<", ">390<", ">40<", ">30<"})
    CHECK_THAT(read_file(file), Contains(figure));
  const json answer = json::parse(
      tool("draw glaze.cell.yaml --dimensions --json --out '" + folder.path() + "/b.svg'").out);
  CHECK(answer["dimensions"][0]["length"].get<double>() == Approx(0.04));
  CHECK_THAT(tool("draw glaze.cell.yaml --dimensions --plot --out x.svg").err,
             Contains("--plot and --dimensions cannot go together"));
}

TEST_CASE("pairs: kept between runs until the geometry changes") {
  const Folder cache;
  const auto pairs = [&](const std::string& arguments) {
    const Folder own;
    const std::string out = own / "out";
    const std::string command = "cd '" + std::string(DEMO_DIR) + "' && XDG_CACHE_HOME='" +
                                cache.path() + "' '" + TOOL + "' pairs glaze.cell.yaml " +
                                arguments + " >'" + out + "' 2>/dev/null";
    REQUIRE(std::system(command.c_str()) == 0);  // NOLINT: the test's own text
    return read_file(out);
  };
  const std::string kept = "kept from an earlier run";
  const std::string first = pairs("--samples 300");
  CHECK_THAT(first, !Contains(kept));
  const std::string second = pairs("--samples 300");
  CHECK_THAT(second, Contains(kept));
  CHECK(first_line(second) == first_line(first));
  CHECK_THAT(pairs("--samples 300 --fresh"), !Contains(kept));
  CHECK_THAT(pairs("--samples 300 --hold 'shoulder = 0 deg'"), !Contains(kept));
}

TEST_CASE("a zone that caps speeds slows what passes through it, and the rehearsal agrees") {
  const Folder folder;
  const std::string file = with_zone(folder, "250 mm/s");
  const Run paced = tool("pace '" + file + "' --from home --to before_kiln");
  CHECK(paced.exit == 0);
  CHECK_THAT(first_line(paced.out), Contains("slowed for zone walkway"));
  const json slow =
      json::parse(tool("pace '" + file + "' --from home --to before_kiln --json").out);
  const json quick =
      json::parse(tool("pace glaze.cell.yaml --from home --to before_kiln --json").out);
  REQUIRE(slow["slowed"].size() == 1);
  CHECK(slow["slowed"][0]["zone"] == "walkway");
  CHECK(quick["slowed"].empty());
  CHECK(slow["duration"].get<double>() ==
        Approx(quick["duration"].get<double>() * slow["slowed"][0]["factor"].get<double>()));
  const Run run = tool("rehearse '" + file + "' dip.routine.yaml");
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, Contains("speed in walkway "));
  const json steps = json::parse(tool("rehearse '" + file + "' dip.routine.yaml --json").out);
  double most = 0.0;
  for (const json& step : steps["steps"]) most = std::max(most, step["zone_share"].get<double>());
  CHECK(most > 0.9);
  CHECK(most <= 1.0);
}

TEST_CASE("reach: branches compared by what joints and tool do, and every posture put back") {
  const Run run = tool("reach glaze.cell.yaml " + kPlace + " --explain --check");
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, Contains("joints turn in all  the tool goes mm  off its straight way mm"));
  CHECK_THAT(run.out, Contains("put back through the transforms of all links:"));
  const std::string table = run.out.substr(run.out.find("put back"));
  CHECK_THAT(table, Contains("  yes\n"));
  CHECK_THAT(table, !Contains("NO"));
}

TEST_CASE("reach: what a place leaves open is asked for, answered and stated") {
  const Run run = tool("reach glaze.cell.yaml " + kPlace + " --leave 'turn = free' --explain");
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out), StartsWith("yes: 3 postures found that reach it"));
  CHECK_THAT(run.out, Contains("the target leaves open: free about its z"));
  CHECK_THAT(run.out, Contains("1 before 2: cost"));
  const json answer =
      json::parse(tool("reach glaze.cell.yaml " + kPlace + " --leave 'turn = free' --json").out);
  CHECK(answer["family"] == true);
  CHECK(answer["leaves_open"] == json::array({"free about its z"}));
  // A point in any orientation: many starts get there, not only the one from where the arm is.
  const json point = json::parse(
      tool("reach bracken.cell.yaml --place '450 mm, 150 mm, 500 mm' --leave 'tilt = free' --json")
          .out);
  CHECK(point["leaves_open"] == json::array({"in any orientation"}));
  CHECK(point["solutions"].size() > 5);
  CHECK_THAT(tool("reach glaze.cell.yaml " + kPlace + " --leave 'trun = free'").err,
             Contains("--leave:1:2: unknown key in what a place leaves open 'trun'") &&
                 Contains("did you mean 'turn'?"));
  CHECK_THAT(tool("reach glaze.cell.yaml " + kPlace + " --leave turn").err,
             Contains("--leave: 'turn' does not say how much"));
  CHECK_THAT(tool("reach glaze.cell.yaml --leave 'turn = free'").err,
             Contains("--leave says nothing without one of --place, --target"));
}

TEST_CASE("reach: requirements from files and options, on and off, and at odds") {
  const std::string bench = "reach glaze.cell.yaml --targets bench.targets.yaml --target ";
  for (const char* name : {"round_cup_3", "waiting", "inspect_glaze", "towards_board"}) {
    INFO(name);
    CHECK(tool(bench + name).exit == 0);
  }
  const Run odds = tool(bench + "towards_board --on far_off");
  CHECK(odds.exit == 1);
  CHECK(first_line(odds.out) ==
        "no: requirements 'place' and 'far_off' cannot be met together, though without any one of "
        "them the others can");
  CHECK_THAT(odds.out, Contains("would do: loosen 'far_off' by 85.0 mm"));
  CHECK(tool(bench + "towards_board --on far_off --off place").exit == 0);
  const json reason = json::parse(tool(bench + "towards_board --on far_off --json").out)["reason"];
  CHECK(reason["cause"] == "at_odds");
  const Run own = tool(
      "reach glaze.cell.yaml --require '{direction: {axis: z, along: [0, 0, -1]}}' "
      "--require '{room: {z: [700 mm, 800 mm]}}' --wish 'dexterity = 1'");
  CHECK(own.exit == 0);
  CHECK_THAT(own.out, Contains("dexterity"));
  CHECK_THAT(tool("reach glaze.cell.yaml --require '{direktion: {}}'").err,
             Contains("--require:1:2: unknown key in a requirement 'direktion'"));
  CHECK_THAT(tool(bench + "waiting --off levl").err,
             Contains("--off: unknown requirement 'levl'") && Contains("did you mean 'level'?"));
  CHECK_THAT(tool(bench + "waiting --wish 'dexterty = 1'").err,
             Contains("did you mean 'dexterity'?"));
}

TEST_CASE("reach: with a piece in the hand, set down on a surface") {
  const Run run = tool(
      "reach glaze.cell.yaml --holding 'cup_1 by from_above' --require '{of: cup_1, "
      "meet: {on: ware_board}}'");
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, Contains("of a family without end"));
  // The board that the cup stands on is meant, and is not what is nearest to it.
  const Run each = tool(
      "reach glaze.cell.yaml --holding 'cup_1 by from_above' --require '{of: cup_1, meet: {on: "
      "ware_board}}' --explain");
  const std::string table = each.out.substr(each.out.find("link by link:"));
  CHECK_THAT(table, Contains("teasel.cup_1"));
  CHECK_THAT(table.substr(table.find("teasel.cup_1"), 60), !Contains("ware_board"));
  CHECK_THAT(tool("reach glaze.cell.yaml --holding cup_11 " + kPlace).err,
             Contains("--holding: unknown piece") && Contains("cup_1"));
  CHECK_THAT(tool("reach glaze.cell.yaml --require '{meet: {on: ware_board}}'").err,
             Contains("surfaces that meet need to know whose"));
}

TEST_CASE("reach: the postures as a picture") {
  CHECK(tool("reach glaze.cell.yaml " + kPlace + " --out all.gif").exit == 2);
  if (kSanitized) return;  // the next test draws one, too, which takes long there
  const Folder folder;
  const std::string file = folder.write("all.png", "");
  const Run run =
      tool("reach glaze.cell.yaml --targets kiln.targets.yaml --target upper_2 --out " + file);
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, Contains("wrote " + file));
  CHECK(read_file(file).substr(1, 3) == "PNG");
}

TEST_CASE("reach: a no as a picture, and clearance link by link") {
  const Folder folder;
  const std::string file = folder.write("no.png", "");
  const Run run = tool("reach glaze.cell.yaml --place '1300 mm, 0, 700 mm' --out " + file);
  CHECK(run.exit == 1);
  CHECK_THAT(run.out, StartsWith("no: out of reach") && Contains("wrote " + file));
  CHECK(read_file(file).substr(1, 3) == "PNG");
  const Run each =
      tool("reach glaze.cell.yaml " + kPlace + " --explain --wish 'room_of = every_link'");
  CHECK(each.exit == 0);
  CHECK_THAT(each.out,
             Contains("clearance of posture 1, link by link:") && Contains("teasel.forearm"));
  const Run wrong = tool("reach glaze.cell.yaml " + kPlace + " --wish 'room_of = every_lnk'");
  CHECK(wrong.exit == 2);
  CHECK_THAT(wrong.err, Contains("every_lnk") && Contains("every_link"));
}

TEST_CASE("audit: a motion that is too fast for a zone, and when") {
  const Folder folder;
  const std::string motion = folder / "m.json";
  REQUIRE(tool("pace glaze.cell.yaml --through 'home, before_kiln' --profile time-optimal --out '" +
               motion + "'")
              .exit == 0);
  const Run fast = tool("audit '" + with_zone(folder, "100 mm/s") + "' '" + motion + "'");
  CHECK(fast.exit == 1);
  CHECK_THAT(first_line(fast.out), StartsWith("no: must not be run: speed in a zone, ") &&
                                       Contains("% of its cap in the piece from ") &&
                                       Contains("walkway"));
  const std::string slowed = folder / "slow.json";
  const std::string cell = with_zone(folder, "100 mm/s");
  REQUIRE(tool("pace '" + cell + "' --through 'home, before_kiln' --profile time-optimal --out '" +
               slowed + "'")
              .exit == 0);
  CHECK(tool("audit '" + cell + "' '" + slowed + "'").exit == 0);
}
