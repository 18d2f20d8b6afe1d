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
