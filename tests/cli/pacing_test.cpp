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
  CHECK_THAT(run.out, Contains("1 of 2 durations chosen") && Contains("only timed"));
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
  CHECK_THAT(run.out, Contains("only timed"));
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
