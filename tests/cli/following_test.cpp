// What the tool says of paths that are followed, driven as a user would.
#include <algorithm>
#include <catch2/catch.hpp>

#include "run_tool.hpp"

using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;
using nlohmann::json;

namespace {

const std::string kBeside = "follow glaze.cell.yaml --path beside_wrist.path.csv";

}  // namespace

TEST_CASE("follow: beside the singularity, the modes compared, the motion and the plot written") {
  const Folder folder;
  const Run run = tool(kBeside + " --rate 250 --compare --out " + (folder / "f.csv") + " --out " +
                       (folder / "f.svg"));
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out), StartsWith("yes: teasel follows the path of 4.000 s in 5.0"));
  CHECK_THAT(run.out, Contains("joint forearm_turn at its velocity limit of 260.00 deg/s"));
  CHECK_THAT(run.out, Contains("pseudo: joint forearm_turn would need"));
  CHECK_THAT(run.out, Contains("damped: the tool strays up to"));
  const std::string table = read_file(folder / "f.csv");
  CHECK_THAT(first_line(table), StartsWith("t,path_t,scale,waist_q,"));
  CHECK(std::count(table.begin(), table.end(), '\n') > 1250);
  CHECK_THAT(read_file(folder / "f.svg"), Contains("most of a velocity limit"));
}

TEST_CASE("follow: a no has its reason, also for programs") {
  const Run run = tool(kBeside + " --mode pseudo --rate 250 --json");
  CHECK(run.exit == 1);
  const json answer = json::parse(run.out);
  CHECK(answer["verdict"] == "no");
  CHECK(answer["mode"] == "pseudo");
  CHECK(answer["reason"]["cause"] == "too_fast");
  CHECK(answer["velocity_use"]["joint"] == "forearm_turn");
  CHECK(answer["velocity_use"]["share"].get<double>() > 2.0);
  const json slow =
      json::parse(tool(kBeside + " --speed '20 mm/s' --leave 'turn = free' --rate 100 --json").out);
  CHECK(slow["verdict"] == "yes");
  CHECK(slow["asked"].get<double>() == Approx(15.0));
}

TEST_CASE("follow: bad input is told with its place") {
  const Folder folder;
  const std::string cell = "follow glaze.cell.yaml --path ";
  const auto said = [&](const std::string& text, const std::string& more = "") {
    const Run run = tool(cell + folder.write("bad.csv", text) + more);
    CHECK(run.exit == 2);
    return run.err;
  };
  CHECK_THAT(said("x mm,y mm,z mm,roll deg,pitch deg,yaw deg\n1,2,3,0,0,0\n2,2,3,0,0,0\n"),
             Contains("the path says no times") && Contains("--speed"));
  CHECK_THAT(said("t s,x mm,y mm,z mm\n0,1,2,3\n"), Contains("no orientation"));
  CHECK_THAT(said("t s,x mm,y mm,z mm,qw,qx,qy,qz\n0,1,2,3,0,0,0,0\n"),
             Contains("quaternion of zero length"));
  CHECK_THAT(said("t s,x mm,y mm,z mm,roll deg,pitch deg,yaw deg\n0,1,2,3,0,0,0\n0,2,2,3,0,0,0\n"),
             Contains("times of a path ascend") && Contains("bad.csv"));
  CHECK_THAT(said("t s,x deg,y mm,z mm,roll deg,pitch deg,yaw deg\n0,1,2,3,0,0,0\n"),
             Contains("bad.csv:2:3"));
  CHECK_THAT(tool(kBeside + " --mode limitd").err, Contains("limited"));
  CHECK_THAT(tool(kBeside + " --leave 'spin = free'").err, Contains("--leave") && Contains("turn"));
  CHECK_THAT(tool(kBeside + " --leave 'x = [-1 mm, 1 mm]'").err,
             Contains("--leave") && Contains("x = free"));
  CHECK_THAT(tool(kBeside + " --rate 1").err, Contains("10 to 100000"));
  const Run far = tool(kBeside + " --in kiln");
  CHECK(far.exit == 1);
}

TEST_CASE("follow: steered by hand past a bucket and to the end of its reach") {
  const Folder folder;
  const std::string by_hand =
      "follow glaze.cell.yaml --sticks by_hand.sticks.csv --full '200 mm/s' --rate 250";
  const Run run = tool(by_hand + " --out " + (folder / "s.csv") + " --out " + (folder / "s.svg"));
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out), StartsWith("yes: teasel is steered for 15."));
  CHECK_THAT(run.out,
             Contains("teasel.gripper and bucket, 5.0") && Contains("mm apart, where 5.0 mm"));
  CHECK_THAT(run.out, Contains("could not be kept on its course"));
  CHECK_THAT(first_line(read_file(folder / "s.csv")), StartsWith("t,path_t,scale,waist_q,"));
  CHECK_THAT(read_file(folder / "s.svg"), Contains("least clearance (mm)"));
  const json answer = json::parse(tool(by_hand + " --in tool --json").out);
  CHECK(answer["verdict"] == "yes");
  CHECK(answer["travel"].get<double>() < answer["asked_travel"].get<double>());
  CHECK(answer["velocity_use"]["share"].get<double>() <= 1.0 + 1e-6);
  CHECK(answer["nearest"]["distance"].get<double>() >= 0.005);
}

TEST_CASE("follow: commands as velocities and deflections, and what is wrong with them") {
  const Folder folder;
  const auto steered = [&](const std::string& text, const std::string& more = "") {
    return tool("follow glaze.cell.yaml --rate 100 --sticks " + folder.write("c.csv", text) + more);
  };
  const auto travel = [&](const std::string& text, const std::string& more = "") {
    return json::parse(steered(text, more + " --json").out)["asked_travel"].get<double>();
  };
  // 0.5 s at 20 mm/s; the last command lasts as long as the one before it.
  CHECK(travel("t s,y mm/s\n0,20\n0.25,20\n") == Approx(0.010));
  CHECK(travel("t ms,y\n100,0\n350,1\n", " --full '40 mm/s'") == Approx(0.010));
  CHECK(travel("y (%)\n100\n100\n", " --full '40 mm/s' --stick-rate 4") == Approx(0.020));
  CHECK(travel("y %\n4\n-5\n") == 0.0);  // in the dead zone
  const auto said = [&](const std::string& text, const std::string& more = "") {
    const Run run = steered(text, more);
    CHECK(run.exit == 2);
    return run.err;
  };
  CHECK_THAT(said("y\n0\n1.2\n"), Contains("c.csv:3:1") && Contains("-1 to 1, found 1.2") &&
                                      Contains("give column 'y' a unit"));
  CHECK_THAT(said("t s,w\n0,0\n"), Contains("no column says which way"));
  CHECK_THAT(said("t s,y\n0,0\n0,0.1\n"), Contains("c.csv:3:1") && Contains("ascend"));
  CHECK_THAT(said("y mm\n1\n"), Contains("c.csv:2:1") && Contains("expected a speed"));
  CHECK_THAT(said("y\nfast\n"), Contains("c.csv:2:1"));
  CHECK_THAT(said("y\n0\n", " --dead-zone 1"), Contains("dead zone"));
  CHECK_THAT(said("y\n0\n", " --compare"), Contains("--sticks and --compare cannot go together"));
  CHECK_THAT(said("y\n0\n", " --path p.csv"), Contains("one of them"));
  CHECK_THAT(said("y\n0\n", " --clearance '1 m'"), Contains("posture to steer from"));
  CHECK_THAT(tool("follow glaze.cell.yaml").err, Contains("--path FILE or --sticks FILE"));
}
