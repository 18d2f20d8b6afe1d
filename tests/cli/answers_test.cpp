// What each verb answers on the demo cell: the first line, the exit code, the JSON, the files.
#include <catch2/catch.hpp>

#include "run_tool.hpp"

using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;
using nlohmann::json;

TEST_CASE("inspect: the demo cell is sound") {
  const Run run = tool("inspect glaze.cell.yaml");
  CHECK(run.exit == 0);
  CHECK(first_line(run.out) ==
        "pottery glazing cell: 1 arm, 13 fixtures, 6 pieces; nothing wrong, missing or odd found");
  CHECK_THAT(
      run.out,
      Contains("shoulder      revolute  y             -100 deg  130 deg  150 deg/s   500 deg/s^2"));
  CHECK_THAT(run.out, Contains("never checked, being joined: base-turret, turret-upper_arm"));
  const json answer = json::parse(tool("inspect glaze.cell.yaml --json").out);
  CHECK(answer["verb"] == "inspect");
  CHECK(answer["verdict"] == "yes");
  CHECK(answer["arms"][0]["moving_joints"] == 6);
  CHECK(answer["findings"].empty());
  CHECK(answer["contacts"] == json::parse(R"([["teasel.base", "pedestal"]])"));
  CHECK_THAT(run.out, Contains("never checked, being meant: teasel.base-pedestal\n"));
}

TEST_CASE("where: home, worked out by hand") {
  const Run run = tool("where glaze.cell.yaml --at home");
  CHECK(run.exit == 0);
  // Upper arm 400 mm leaning back 20 deg, forearm level, wrist to grip 225 mm straight down.
  const double x = 40 - 400 * std::sin(20 * 3.14159265358979 / 180) + 150 + 240;
  const double z =
      400 + 160 + 180 + 400 * std::cos(20 * 3.14159265358979 / 180) + 30 - (65 + 40 + 120);
  const json answer = json::parse(tool("where glaze.cell.yaml --at home --json").out);
  CHECK(answer["pose"]["position"][0].get<double>() == Approx(x / 1000).margin(1e-12));
  CHECK(answer["pose"]["position"][1].get<double>() == Approx(0.0).margin(1e-12));
  CHECK(answer["pose"]["position"][2].get<double>() == Approx(z / 1000).margin(1e-12));
  CHECK(first_line(run.out) == "grip is at [293.192, 0.000, 920.877] mm in world");
  CHECK_THAT(run.out, Contains("rpy: turned about the fixed x, y, z axes, in that order"));
}

TEST_CASE("where: joint values on the command line, in another frame") {
  const Run run =
      tool("where glaze.cell.yaml --at '0 deg, -20 deg, 20 deg, 0 deg, 90 deg, 0 deg' --in board");
  CHECK(run.exit == 0);
  CHECK(first_line(run.out) == "grip is at [193.192, -560.000, 360.877] mm in board");
  const Run negative = tool("where glaze.cell.yaml --at '-10 deg, 0, 0, 0, 0, 0'");
  CHECK(negative.exit == 0);
  const Run outside = tool("where glaze.cell.yaml --at '0, 0, 0, 0, 130 deg, 0'");
  CHECK(outside.exit == 0);
  CHECK_THAT(outside.out,
             Contains("beware, this posture is out of its limits: joint wrist_bend would be at "
                      "130.00 deg, limit 120.00 deg"));
}

TEST_CASE("reach: a place in the kiln, and each kind of no") {
  const Run yes = tool("reach glaze.cell.yaml --targets kiln.targets.yaml --target upper_2");
  CHECK(yes.exit == 0);
  CHECK(first_line(yes.out) ==
        "yes: 4 postures reach it; the best keeps teasel.gripper and kiln_upper_shelf, 23.0 mm "
        "apart");
  const Run far = tool("reach glaze.cell.yaml --place '2000 mm, 0, 700 mm'");
  CHECK(far.exit == 1);
  CHECK_THAT(first_line(far.out), StartsWith("no: out of reach, short by"));
  CHECK_THAT(far.out, Contains("would do: move the target by"));
  const Run hit =
      tool("reach glaze.cell.yaml --targets kiln.targets.yaml --target upper_8 --clearance '5 mm'");
  CHECK(hit.exit == 1);
  CHECK_THAT(first_line(hit.out),
             Contains("postures found that meet the target are too near something") &&
                 Contains("teasel.wrist and kiln_upper_shelf") &&
                 Contains("5.0 mm of clearance is asked for"));
  CHECK_THAT(hit.out,
             Contains("would do: move the target by [0, 0, ") && Contains(" mm (world axes)"));
  const json answer =
      json::parse(tool("reach glaze.cell.yaml --place '2 m, 0, 700 mm' --json").out);
  CHECK(answer["verdict"] == "no");
  CHECK(answer["reason"]["cause"] == "out_of_reach");
  CHECK(answer["reason"]["figures"][0]["name"] == "short_by");
}

TEST_CASE("the remedy of a reach that is a no is itself a yes") {
  // upper_8 is at [250, -825, 815] mm; the remedy lifts it by 20 mm.
  const Run cured = tool(
      "reach glaze.cell.yaml --place '250 mm, -825 mm, 835 mm' --rpy '90 deg, 0, 0' --clearance '5 "
      "mm'");
  CHECK(cured.exit == 0);
  const Run as_it_was = tool(
      "reach glaze.cell.yaml --place '250 mm, -825 mm, 815 mm' --rpy '90 deg, 0, 0' --clearance '5 "
      "mm'");
  CHECK(as_it_was.exit == 1);
}

TEST_CASE("route: proved, saved, and the same again") {
  const Folder folder;
  const std::string ask = "route glaze.cell.yaml --from over_board --to over_bucket --out '";
  const Run run = tool(ask + (folder / "a.csv") + "'");
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out), StartsWith("yes: ") && Contains("proved to keep 5.0 mm"));
  CHECK(tool(ask + (folder / "b.csv") + "'").exit == 0);
  CHECK(read_file(folder / "a.csv") == read_file(folder / "b.csv"));
  CHECK_THAT(read_file(folder / "a.csv"), StartsWith("waypoint,waist,shoulder,elbow,"));
  const Run blocked = tool("route glaze.cell.yaml --to '0, 120 deg, 0, 0, 0, 0'");
  CHECK(blocked.exit == 1);
  CHECK_THAT(first_line(blocked.out),
             StartsWith("no: at the goal: teasel.") && Contains("mm deep"));
}

TEST_CASE("pace: a table that keeps the limits, and plots") {
  const Folder folder;
  const Run run = tool(
      "pace glaze.cell.yaml --through 'home, before_kiln' --profile trapezoid --rate 100 --out '" +
      (folder / "m.csv") + "' --out '" + (folder / "m.png") + "' --out '" + (folder / "m.svg") +
      "'");
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out), StartsWith("yes: ") && Contains("0 stops on the way"));
  CHECK_THAT(run.out, Contains("proved to keep 5.0 mm over the whole motion"));
  const std::string csv = read_file(folder / "m.csv");
  CHECK(first_line(csv) ==
        "t,waist_q,shoulder_q,elbow_q,forearm_turn_q,wrist_bend_q,wrist_turn_q,waist_qd,shoulder_"
        "qd,elbow_qd,"
        "forearm_turn_qd,wrist_bend_qd,wrist_turn_qd,waist_qdd,shoulder_qdd,elbow_qdd,forearm_turn_"
        "qdd,"
        "wrist_bend_qdd,wrist_turn_qdd");
  CHECK(read_file(folder / "m.png").substr(1, 3) == "PNG");
  const std::string svg = read_file(folder / "m.svg");
  CHECK_THAT(svg, Contains("position (deg)") && Contains("acceleration (deg/s²)") &&
                      Contains("forearm_turn"));
  CHECK(folder.count() == 3);
}

TEST_CASE("rehearse: the demo routine passes, and its table says so step by step") {
  const Folder folder;
  const Run run = tool("rehearse glaze.cell.yaml dip.routine.yaml --out '" +
                       (folder / "steps.csv") + "' --motion '" + (folder / "motion.csv") + "'");
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out),
             StartsWith("yes: 10 steps in ") &&
                 Contains("range, velocity, acceleration and torque kept, least clearance"));
  CHECK_THAT(read_file(folder / "steps.csv"),
             Contains("\n10,teasel,go to home,") && Contains(",yes\n"));
  const json answer = json::parse(tool("rehearse glaze.cell.yaml dip.routine.yaml --json").out);
  CHECK(answer["passed"] == true);
  for (const json& step : answer["steps"]) {
    CHECK(step["velocity_use"]["share"] <= 1.000001);
    CHECK(step["acceleration_use"]["share"] <= 1.000001);
    CHECK(step["clearance"] > step["clearance_asked"].get<double>() - 1e-6);
  }
}

TEST_CASE("changing one number in the cell file changes the verdict, with a reason") {
  const Folder folder;
  std::string cell = read_file(std::string(DEMO_DIR) + "/glaze.cell.yaml");
  const std::string before = "at: [480 mm, 350 mm, 0 mm]";  // the splash wall
  cell.replace(cell.find(before), before.size(), "at: [480 mm, 180 mm, 0 mm]");
  const Run run = tool("rehearse '" + folder.write("moved.cell.yaml", cell) + "' dip.routine.yaml");
  CHECK(run.exit == 1);
  CHECK_THAT(first_line(run.out), StartsWith("no: step ") && Contains("splash_wall"));
}

TEST_CASE("survey: n of m, each place with its reason") {
  const Folder folder;
  const Run run =
      tool("survey glaze.cell.yaml kiln.targets.yaml --out '" + (folder / "s.csv") + "'");
  CHECK(run.exit == 1);  // not all of them
  CHECK(first_line(run.out) == "12 of 18 targets can be reached, with a proved route from home");
  CHECK_THAT(run.out, Contains("upper_7: no: all") && Contains("would do: move the target by"));
  CHECK_THAT(read_file(folder / "s.csv"),
             StartsWith("target,x_m,y_m,z_m,postures,clearance_m,nearest,route_rad,"));
  const json answer =
      json::parse(tool("survey glaze.cell.yaml kiln.targets.yaml --no-routes --json").out);
  CHECK(answer["reached"] == 12);
  CHECK(answer["asked"] == 18);
}

TEST_CASE("draw: a picture of the size asked for") {
  const Folder folder;
  const Run run = tool("draw glaze.cell.yaml --at over_board --width 320 --height 200 --out '" +
                       (folder / "p.png") + "'");
  CHECK(run.exit == 0);
  CHECK(first_line(run.out) == "drawn, 320 x 200 pixels");
  const std::string png = read_file(folder / "p.png");
  REQUIRE(png.size() > 1000);
  CHECK(static_cast<unsigned char>(png[18]) * 256 + static_cast<unsigned char>(png[19]) == 320);
  CHECK(static_cast<unsigned char>(png[22]) * 256 + static_cast<unsigned char>(png[23]) == 200);
}

TEST_CASE("demo: tells what it does and ends with the verdict and the files") {
  const Folder folder;
  const Run run = tool("demo --out '" + folder.path() + "'");
  CHECK(run.exit == 0);
  for (const char* part :
       {"1. The cell", "2. Reach", "3. Route", "4. Pace", "5. Rehearse", "6. Survey", "7. Draw"})
    CHECK_THAT(run.out, Contains(part));
  CHECK_THAT(run.out,
             Contains("\nyes: 16 steps in ") && Contains("12 of 18 targets can be reached"));
  for (const char* file : {"route_motion.csv", "steps.csv", "motion.csv", "motion.png",
                           "routine.glb", "survey.csv", "cell.png"}) {
    CHECK_THAT(run.out, Contains(std::string("wrote ") + folder.path() + "/" + file));
    CHECK(read_file(folder / file).size() > 200);
  }
}
