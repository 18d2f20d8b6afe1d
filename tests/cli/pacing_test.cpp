// Time put on lists of waypoints: profiles, polynomials, their tables and files.
#include <catch2/catch.hpp>
#include <fstream>

#include "run_tool.hpp"

using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;
using nlohmann::json;

TEST_CASE("pace: jerk-limited lines are quicker than quintics and keep all three limits") {
  const auto ask = [](const std::string& profile) {
    return json::parse(tool("pace glaze.cell.yaml --through 'home, over_bucket, before_kiln' "
                            "--json --profile " +
                            profile)
                           .out);
  };
  const json jerk_limited = ask("jerk-limited");
  const json quintic = ask("quintic");
  CHECK(jerk_limited["profile"] == "jerk-limited");
  CHECK(jerk_limited["duration"] < quintic["duration"]);
  CHECK(jerk_limited["duration"] > ask("trapezoid")["duration"]);
  for (const char* use : {"velocity_use", "acceleration_use", "jerk_use"})
    CHECK(jerk_limited[use]["share"] < 1.000001);
}

TEST_CASE("pace: a polynomial worked out step by step") {
  const Run run = tool(
      "pace sedge.cell.yaml --through 'home, over_tile' --polynomial cubic --durations '2 s' "
      "--coefficients");
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out), StartsWith("yes: 2.000 s in all, 1 polynomial of degree 3"));
  // 30 deg in 2 s: c2 = 3 * 30 / 4, c3 = -2 * 30 / 8.
  CHECK_THAT(run.out, Contains("lower_bar_servo  -20   0   22.5   -7.5"));
  CHECK_THAT(run.out, Contains("q'(T)   0   1   4  12"));
  CHECK_THAT(run.out, Contains("c1 vanishes, for the velocity at its beginning is zero"));
  const json answer = json::parse(tool("pace sedge.cell.yaml --through 'home, over_tile' "
                                       "--polynomial cubic --durations '2 s' --json")
                                      .out);
  CHECK(answer["degree"] == 3);
  const json c = answer["stretches"][0]["coefficients"]["lower_bar_servo"];
  REQUIRE(c.size() == 4);
  CHECK(c[2].get<double>() == Approx(22.5 * M_PI / 180));
  CHECK(answer["stretches"][0]["chosen"] == false);
}

TEST_CASE("pace: a waypoint file with a velocity and a time, written as CSV") {
  const Folder folder;
  const Run run = tool(
      "pace glaze.cell.yaml --waypoints sweep.waypoints.yaml --polynomial quintic --rate 10 --out "
      "'" +
      (folder / "m.csv") + "'");
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, Contains("1 of 2 durations chosen") &&
                          Contains("proved to keep 5.0 mm over the whole motion"));
  CHECK_THAT(read_file(folder / "m.csv"), Contains("\n1.2,"));
  const Run lines = tool("pace glaze.cell.yaml --waypoints sweep.waypoints.yaml");
  CHECK(lines.exit == 2);
  CHECK_THAT(lines.err, Contains("waypoint 'over_bucket' says when or how fast"));
  const Run fast = tool(
      "pace glaze.cell.yaml --through 'home, over_bucket' --polynomial quintic --durations '0.2 "
      "s'");
  CHECK(fast.exit == 1);
  CHECK_THAT(first_line(fast.out), StartsWith("no: joint ") && Contains("would need"));
  CHECK_THAT(fast.out, Contains("would do: every stretch"));
}

TEST_CASE("pace: through targets, by the posture nearest to the one before") {
  const Run run = tool(
      "pace glaze.cell.yaml --targets kiln.targets.yaml --through 'before_kiln, upper_2' "
      "--polynomial quintic");
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, Contains("proved to keep 5.0 mm over the whole motion"));
}

TEST_CASE("pace: lists and polynomials that make no sense") {
  const auto refused = [](const std::string& arguments, const std::string& why) {
    const Run run = tool("pace " + arguments);
    CHECK(run.exit == 2);
    CHECK_THAT(run.err, Contains(why));
  };
  refused("glaze.cell.yaml --to before_kiln --polynomial cubic",
          "--polynomial: it leads through waypoints");
  refused("glaze.cell.yaml --through 'home, before_kiln' --coefficients",
          "--coefficients: they are of polynomials");
  refused("glaze.cell.yaml --through 'home, before_kiln' --polynomial cubic --profile quintic",
          "two laws of motion");
  refused("glaze.cell.yaml --through 'home, before_kiln' --polynomial cubc",
          "did you mean 'cubic'?");
  refused("glaze.cell.yaml --through 'home, before_kiln' --polynomial cubic --ends natrual",
          "did you mean 'natural'?");
  refused("glaze.cell.yaml --through 'home, before_kiln' --polynomial cubic --on-the-way stp",
          "known: smooth, stop");
  refused("glaze.cell.yaml --through 'home, before_kiln' --polynomial cubic --durations '0 s'",
          "is to be reached after 0 s");
  refused("glaze.cell.yaml --through 'home, before_kiln' --polynomial cubic --durations '1 s, 2 s'",
          "give one for each stretch");
  refused("glaze.cell.yaml --through 'home, before_kiln' --durations '1 s'",
          "only polynomials take as long as they are told");
  refused("glaze.cell.yaml --through 'home, home' --polynomial cubic",
          "waypoint 2 (home) is where the waypoint before is");
  const Folder folder;
  const auto refused_file = [&](const std::string& text, const std::string& why) {
    std::ofstream(folder / "w.yaml") << "elbowroom: waypoints/1\n" << text;
    refused("glaze.cell.yaml --polynomial cubic --waypoints '" + (folder / "w.yaml") + "'", why);
  };
  refused_file("waypoints:\n  - home\n", "w.yaml:3:3: a motion needs two waypoints");
  refused_file("waypoints:\n  - home\n  - {stance: over_bucket, after: 2 mm}\n", "w.yaml:4:34");
  refused_file("waypoints:\n  - home\n  - {stance: over_bucket, velocity: 3}\n", "w.yaml:4:37");
  refused_file("waypoints:\n  - home\n  - {after: 2 s}\n", "it does not say where");
  refused_file("waypoints:\n  - home\n  - {stance: home, posture: [0]}\n",
               "it is one thing, 'stance' or 'posture'");
  refused_file("waypoints:\n  - home\n  - {stanc: home}\n", "did you mean 'stance'?");
}

TEST_CASE("pace: round corners, and limits of the tool") {
  const std::string ask =
      "pace glaze.cell.yaml --from over_board --to over_bucket --profile time-optimal ";
  const json with_stops = json::parse(tool(ask + "--json").out);
  const Run run = tool(ask + "--round '5 deg'");
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out), StartsWith("yes: ") && Contains("0 stops on the way, ") &&
                                      Contains("corners rounded"));
  CHECK_THAT(run.out, Contains("the motion as it stands is proved to keep 5.0 mm"));
  const json round = json::parse(tool(ask + "--round '5 deg, 30 mm' --json").out);
  CHECK(round["duration"] < with_stops["duration"]);
  CHECK(with_stops["corners"].empty());
  CHECK(round["corners"].size() == with_stops["stops"]);
  CHECK(round["corners"][0]["rounded"] == true);
  const json slow = json::parse(tool(ask + "--tool-speed '200 mm/s' --json").out);
  CHECK(slow["duration"].get<double>() > 2.0 * with_stops["duration"].get<double>());
}

TEST_CASE("pace: a list that collides is a no, with the place, unless only time was asked for") {
  const std::string ask = "pace glaze.cell.yaml --through 'over_board, over_bucket' ";
  const Run run = tool(ask);
  CHECK(run.exit == 1);
  CHECK_THAT(first_line(run.out),
             StartsWith("no: from 0.") &&
                 Contains(" s on teasel.gripper and splash_wall are nearer than 5.0 mm"));
  const Run unchecked = tool(ask + "--unchecked");
  CHECK(unchecked.exit == 0);
  CHECK_THAT(unchecked.out, Contains("unchecked: it may collide"));
}

TEST_CASE("pace: rounding that makes no sense") {
  const auto refused = [](const std::string& arguments, const std::string& why) {
    const Run run = tool("pace glaze.cell.yaml " + arguments);
    CHECK(run.exit == 2);
    CHECK_THAT(run.err, Contains(why));
  };
  const std::string optimal = "--from over_board --to over_bucket --profile time-optimal ";
  refused("--from home --to before_kiln --round '5 deg'",
          "take profile time-optimal to round corners");
  refused(optimal + "--round '5 kg'", "is an angle or a length, found '5 kg'");
  refused(optimal + "--round '0 deg'", "is above zero");
  refused(
      optimal + "--round '5 deg' --keep 'direction: {axis: z, along: [0, 0, -1], angle: 5 deg}'",
      "--round: round corners leave the lines that --keep is proved along");
  refused(optimal + "--tool-speed '0 mm/s'", "--tool-speed: a limit is above zero");
  refused(optimal + "--tool-acceleration '2 m/s'", "--tool-acceleration: expected");
  refused(optimal + "--unchecked", "a route is proved before time is put on it");
}

TEST_CASE("audit: a motion saved, read back exactly, as a table, spoilt, and against a recording") {
  const Folder folder;
  const std::string json_file = folder / "m.json";
  const std::string csv_file = folder / "m.csv";
  const Run paced =
      tool("pace glaze.cell.yaml --from home --to before_kiln --profile jerk-limited --out '" +
           json_file + "' --out '" + csv_file + "'");
  REQUIRE(paced.exit == 0);
  const Run exact =
      tool("audit glaze.cell.yaml '" + json_file + "' --jerk --recorded '" + csv_file + "'");
  CHECK(exact.exit == 0);
  CHECK_THAT(first_line(exact.out), StartsWith("yes: may be run: 0.793 s in range"));
  CHECK_THAT(exact.out, Contains("compared: the second is 0.00 ms behind the first"));
  CHECK(tool("audit glaze.cell.yaml '" + csv_file + "'").exit == 0);
  const json answer = json::parse(
      tool("audit glaze.cell.yaml '" + json_file + "' --json --tool-speed '100 mm/s'").out);
  CHECK(answer["may_be_run"] == false);
  CHECK(answer["breaches"][0]["what"] == "speed of the tool");
  std::string text = read_file(csv_file);
  const auto refused = [&](const std::string& table, const std::string& why) {
    std::ofstream(folder / "bad.csv") << table;
    const Run run = tool("audit glaze.cell.yaml '" + (folder / "bad.csv") + "'");
    CHECK(run.exit == 2);
    CHECK_THAT(run.err, Contains(why));
  };
  const std::string heading =
      "t s,waist deg,shoulder deg,elbow deg,forearm_turn deg,wrist_bend deg,wrist_turn deg\n";
  refused(heading + "0,0,0,0,0,0,0\n0.1,nan,0,0,0,0,0\n",
          "bad.csv:3:5: 'nan' is not a finite number");
  refused(heading + "0,0,0,0,0,0,0\n0,0,0,0,0,0,0\n", "bad.csv:3:1: the times ascend");
  refused(heading + "0,0,0,0,0,0,0\n", "a motion has two rows or more");
  refused("t s,waist deg\n0,0\n1,0\n", "unknown column 'shoulder'");
  refused("waist deg\n0\n1\n", "there is no column of times");
  std::ofstream(folder / "cut.json") << read_file(json_file).substr(0, 400);
  CHECK_THAT(tool("audit glaze.cell.yaml '" + (folder / "cut.json") + "'").err,
             Contains("this is no whole JSON"));
}

TEST_CASE("rehearse: a routine under every profile, as a table and a picture") {
  const Folder folder;
  const Run run = tool("rehearse glaze.cell.yaml dip.routine.yaml --profiles --out '" +
                       (folder / "p.svg") + "'");
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out), StartsWith("yes: ") && Contains("is the quickest, 6."));
  CHECK_THAT(read_file(folder / "p.svg"), Contains("jerk-limited, 8.0") &&
                                              Contains("time-optimal with jerk limits, 7.4") &&
                                              Contains("(% of the limit)"));
  const json answer =
      json::parse(tool("rehearse glaze.cell.yaml dip.routine.yaml --profiles --json").out);
  REQUIRE(answer["profiles"].size() == 5);
  for (const json& one : answer["profiles"]) {
    CHECK(one["passed"] == true);
    CHECK(one["velocity_use"]["share"] < 1.000001);
    const std::string profile = one["profile"];
    const bool jumps =
        profile == "trapezoid" || (profile == "time-optimal" && one["keeps_jerk"] == false);
    CHECK((one["acceleration_jump_share"].get<double>() > 0.5) == jumps);
  }
}

TEST_CASE("pace: the speed of a frame is kept, told and audited") {
  const Folder folder;
  const std::string file = folder / "slow.json";
  const std::string ask = "pace glaze.cell.yaml --from over_board --to over_bucket ";
  const std::string slow = "--keep '{name: slow arm, speed: 300 mm/s, of: forearm}' ";
  const Run run = tool(ask + slow + "--out '" + file + "'");
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out), Contains("; slowed for the speed of a frame"));
  CHECK_THAT(run.out,
             Contains("so that rule 'slow arm': forearm at 300.0 mm/s at most is kept") &&
                 Contains("  rule 'slow arm': forearm at 300.0 mm/s at most: 100.0 % of that"));
  const json quick = json::parse(tool(ask + slow + "--profile time-optimal --json").out);
  CHECK(quick["frame_speeds"][0]["rule"] == "slow arm");
  CHECK(quick["frame_speeds"][0]["share"] <= 1.0);
  CHECK(quick["frame_speeds"][0]["share"] > 0.99);
  const std::string audit = "audit glaze.cell.yaml '" + file + "' --keep ";
  CHECK(tool(audit + "'{speed: 300 mm/s, of: forearm}'").exit == 0);
  const Run tight = tool(audit + "'{speed: 200 mm/s, of: forearm}'");
  CHECK(tight.exit == 1);
  CHECK_THAT(first_line(tight.out),
             StartsWith("no: must not be run: rule 'speed 1': forearm at "
                        "200.0 mm/s at most, ") &&
                 (Contains(" 299.9 mm/s at ") || Contains(" 300.0 mm/s at ")));
  CHECK(tool("pace glaze.cell.yaml --through 'home, over_bucket' " + slow).exit == 0);
  CHECK_THAT(tool("route glaze.cell.yaml --from over_board --to over_bucket " + slow).out,
             Contains("a route has no time; pace keeps to that"));
  for (const auto& [wrong, said] : std::vector<std::pair<std::string, std::string>>{
           {ask + "--keep '{speed: 300 mm/s, of: forarm}'", "did you mean 'forearm'?"},
           {ask + "--keep '{speed: 0 mm/s}'", "a speed to keep is above zero"},
           {ask + "--keep '{sped: 10 mm/s}'", "did you mean 'speed'?"},
           {"pace glaze.cell.yaml --through 'home, over_bucket' --polynomial cubic " + slow,
            "takes the time that its waypoints say"},
           {"pace glaze.cell.yaml --through 'home, over_bucket' --keep "
            "'direction: {axis: z, along: [0, 0, -1], angle: 5 deg}'",
            "but for speeds of frames --keep is for routes"}}) {
    const Run out = tool(wrong);
    CHECK(out.exit == 2);
    CHECK_THAT(out.err, Contains(said));
  }
}

TEST_CASE("numbers among the options: with their unit or without, and what is none") {
  const std::string ask = "pace glaze.cell.yaml --from over_board --to over_bucket ";
  CHECK(first_line(tool(ask + "--speed '50 %'").out) == first_line(tool(ask + "--speed 50").out));
  for (const auto& [wrong, said] : std::vector<std::pair<std::string, std::string>>{
           {"--speed fast", "--speed: expected a number, with or without '%', found 'fast'"},
           {"--rate '1 kHz'", "--rate: expected a number, with or without 'Hz', found '1 kHz'"},
           {"--tries 1.5", "--tries: expected a whole number, found '1.5'"},
           {"--seed -3", "--seed: expected a whole number from zero on, found '-3'"}}) {
    const Run run = tool(ask + wrong);
    CHECK(run.exit == 2);
    CHECK_THAT(run.err, Contains(said));
  }
}
