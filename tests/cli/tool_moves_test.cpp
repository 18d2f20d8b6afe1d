// Moves of the tool and waypoints with speeds, stops and waits, asked for as a user would.
#include <catch2/catch.hpp>
#include <fstream>

#include "run_tool.hpp"

using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;
using nlohmann::json;

namespace {

const std::string kIntoKiln =
    "pace glaze.cell.yaml --from before_kiln --targets kiln.targets.yaml --target upper_1 ";

void refused_move(const std::string& command, const std::string& message) {
  const Run run = tool(command);
  CHECK(run.exit == 2);
  CHECK_THAT(run.err, Contains(message));
}

}  // namespace

TEST_CASE("pace: a straight move beside a joint move, its files and figures") {
  const Folder folder;
  const Run run = tool(kIntoKiln +
                       "--straight --tool-speed '200 mm/s' --profile trapezoid --compare "
                       "--out '" +
                       (folder / "m.json") + "' --out '" + (folder / "m.svg") + "'");
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out), StartsWith("yes: 1.679 s in all, trapezoid"));
  CHECK_THAT(run.out,
             Contains("tool speed 200.0 mm/s is kept within 1 % over 311.1 of 323.4 mm (96 %)"));
  CHECK_THAT(run.out, Contains("times as long as a joint move"));
  CHECK_THAT(run.out, Contains("off the straight line") && Contains("way of the tip"));
  CHECK_THAT(
      first_line(
          tool("audit glaze.cell.yaml '" + (folder / "m.json") + "' --tool-speed '201 mm/s'").out),
      StartsWith("yes: "));
  const json answer = json::parse(
      tool(kIntoKiln + "--straight --tool-speed '200 mm/s' --profile trapezoid --compare --json")
          .out);
  CHECK(answer["tool_speed"]["kept"] == true);
  CHECK(answer["stray"]["beside"] < 2e-4);
  CHECK(answer["tool_move"]["off_line"] < 2e-4);
  CHECK(answer["joint_move"]["off_line"] > 0.01);
  CHECK(answer["joint_move"]["way"] > answer["tool_move"]["way"]);
  const json near = json::parse(
      tool(kIntoKiln + "--straight --compare --clearances '" + (folder / "c.csv") + "' --json")
          .out);
  CHECK(near.contains("clearances"));
  CHECK(near.contains("joint_move"));
}

TEST_CASE("pace: what a refused straight move says would do, does: its turn left open") {
  const std::string move = "pace " DEMO_DIR "/glaze.cell.yaml --straight ";
  for (const char* ends :
       {"--from over_board --place '601 mm, -243 mm, 390 mm' --rpy '180 deg, 0 deg, 0 deg'",
        "--from before_kiln --place '285 mm, 524 mm, 832 mm' --rpy '-135 deg, 0 deg, 268 deg'"}) {
    const auto refused = tool(move + ends);
    CHECK(refused.exit == 1);
    CHECK_THAT(refused.out, Contains("would do: leave the turn about the tool's axis open"));
    CHECK(tool(move + ends + " --leave 'turn = free'").exit == 0);
  }
  // Without a place, too.
  CHECK(tool(move + "--from over_board --to home --leave 'turn = free'").exit == 0);
}

TEST_CASE("pace: laws of a straight move, from the slowest to the quickest") {
  const auto duration = [](const std::string& law) {
    const json answer = json::parse(tool(kIntoKiln + "--straight --json --profile " + law).out);
    CHECK(answer["velocity_use"]["share"] < 1.000001);
    CHECK(answer["acceleration_use"]["share"] < 1.000001);
    return answer["duration"].get<double>();
  };
  const double best = duration("time-optimal");
  CHECK(best < duration("trapezoid"));
  CHECK(best < duration("cubic"));
  const double smooth = duration("time-optimal --keep-jerk");
  CHECK(best < smooth);
  CHECK(smooth < duration("jerk-limited"));
  CHECK(smooth < duration("quintic"));
}

TEST_CASE("audit: a motion within jerk limits may be run though jerk counts") {
  const Folder folder;
  const std::string file = folder / "m.json";
  CHECK(
      tool(kIntoKiln + "--straight --profile time-optimal --keep-jerk --out '" + file + "'").exit ==
      0);
  CHECK_THAT(first_line(tool("audit glaze.cell.yaml '" + file + "' --jerk").out),
             Contains("within limits of velocity, acceleration and jerk, without jumps"));
  CHECK(tool(kIntoKiln + "--straight --profile time-optimal --out '" + file + "'").exit == 0);
  CHECK_THAT(first_line(tool("audit glaze.cell.yaml '" + file + "' --jerk").out),
             StartsWith("no: "));
  CHECK_THAT(first_line(tool("audit glaze.cell.yaml '" + file + "'").out),
             Contains("within limits of velocity and acceleration, without jumps"));
}

TEST_CASE("pace: a steady speed that cannot be kept says which could") {
  const Run run =
      tool(kIntoKiln + "--straight --tool-speed '900 mm/s' --profile time-optimal --steady");
  CHECK(run.exit == 1);
  CHECK_THAT(run.out, StartsWith("no: tool speed 900.0 mm/s is never reached") &&
                          Contains("would do: at ") && Contains(" mm/s it is kept"));
  const auto at = run.out.find("at ", run.out.find("would do"));
  const std::string speed = run.out.substr(at + 3, run.out.find(" mm/s", at) - at - 3);
  CHECK(tool(kIntoKiln + "--straight --tool-speed '" + speed +
             " mm/s' --profile time-optimal --steady")
            .exit == 0);
}

TEST_CASE("pace: an arc and a trace") {
  const Run arc = tool(
      "pace glaze.cell.yaml --from home --arc '340 mm, 100 mm, 930 mm' --place "
      "'292 mm, 180 mm, 920 mm' --rpy '180 deg, 0 deg, 180 deg'");
  INFO(arc.out << arc.err);
  CHECK(arc.exit == 0);
  CHECK_THAT(arc.out, Contains("mm and ") && Contains(" from its path at most"));
  const Run trace = tool(
      "pace glaze.cell.yaml --trace stroke.path.csv --profile jerk-limited "
      "--tool-speed '100 mm/s' --steady");
  CHECK(trace.exit == 0);
  CHECK_THAT(trace.out, Contains("begins in posture \"") && Contains("of 236.6 mm (96 %)"));
}

TEST_CASE("pace: stretches with their own speed, stops and waits, in options and files") {
  const std::string list = "pace glaze.cell.yaml --through 'home, over_bucket, before_kiln' ";
  const auto duration = [](const std::string& command) {
    const Run run = tool(command + " --json");
    INFO(run.err);
    return json::parse(run.out)["duration"].get<double>();
  };
  const double plain = duration(list);
  CHECK(duration(list + "--waits 'over_bucket = 0.5 s'") == Approx(plain + 0.5));
  CHECK(duration(list + "--speeds '100 %, 10 %'") > 2.0 * plain);
  const std::string rounded = list + "--profile time-optimal --round '5 deg, 20 mm' ";
  CHECK_THAT(tool(rounded).out, Contains("0 stops on the way, 1 of 1 corner rounded"));
  CHECK_THAT(tool(rounded + "--stops over_bucket").out, Contains("1 stop on the way"));
  CHECK(duration(rounded + "--keep-jerk") > duration(rounded));

  // A wait at the first waypoint, and at both passages of one that comes twice.
  CHECK(duration(list + "--waits 'home = 0.5 s'") == Approx(plain + 0.5));
  const std::string twice = "pace glaze.cell.yaml --through 'home, over_bucket, home' ";
  CHECK(duration(twice + "--waits 'home = 0.5 s'") == Approx(duration(twice) + 1.0));

  const Folder folder;
  const auto listed = [&](const std::string& waypoints) {
    std::ofstream(folder / "w.yaml")
        << "elbowroom: waypoints/1\narm: teasel\nwaypoints:\n  - home\n" + waypoints;
    return "pace glaze.cell.yaml --waypoints '" + (folder / "w.yaml") + "'";
  };
  CHECK(duration(listed("  - {stance: over_bucket, wait: 0.5 s, speed: 50 %}\n"
                        "  - {stance: before_kiln, stop: yes}\n")) ==
        duration(list + "--speeds '50 %, 100 %' --waits 'over_bucket = 0.5 s'"));
  refused_move(listed("  - {stance: over_bucket, wait: 0 s}\n"),
               "w.yaml:5:33: a wait is above zero");
}

TEST_CASE("pace: tool moves and waypoints that make no sense") {
  refused_move(kIntoKiln + "--straight --arc '1 m, 0 m, 1 m'",
               "one of --straight, --arc and --trace");
  refused_move(kIntoKiln + "--arc '1 m, 0 m'", "a point has three lengths, found 2");
  refused_move(kIntoKiln + "--arc '240.214 mm, -416.063 mm, 1030.561 mm'",
               "two of an arc's three points are the same");
  refused_move(kIntoKiln + "--straight --stray '0 mm'", "this is above zero");
  refused_move(kIntoKiln + "--straight --round '5 deg'", "are moves of their own");
  refused_move(kIntoKiln + "--straight --improve 3", "a tool move goes one way");
  refused_move(kIntoKiln + "--straight --steady --profile trapezoid",
               "a steady tool needs a speed");
  refused_move(kIntoKiln + "--straight --keep-jerk", "take profile time-optimal");
  refused_move("pace glaze.cell.yaml --to before_kiln --steady", "are of tool moves");
  refused_move("pace glaze.cell.yaml --trace stroke.path.csv --to home",
               "it ends where the table does");
  const std::string list = "pace glaze.cell.yaml --through 'home, over_bucket' ";
  refused_move(list + "--speeds '50 %, 50 %'",
               "--speeds: found 2, and 2 waypoints have 1 stretches");
  refused_move(list + "--speeds '150 %'", "at most 100 %");
  refused_move(list + "--stops over_buckt", "--stops: unknown waypoint 'over_buckt'");
  refused_move(list + "--waits 'over_bucket 1 s'", "'over_bucket 1 s' does not say how much");
  refused_move(list + "--polynomial cubic --waits 'over_bucket = 1 s'",
               "which are of straight lines");
}
