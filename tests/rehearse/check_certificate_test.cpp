// Evidence that a path is free, and its check by other code.
#include "elbowroom/rehearse/check_certificate.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/collision/sweep.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/rehearse/replay_clearance.hpp"
#include "elbowroom/route/route.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"
#include "support/hunt.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;

namespace {

Certificate some_certificate(const CellQuery& query, Clutter clutter, std::uint64_t seed) {
  const RouteQuestion question = clutter_questions(query, clutter, 1, kClearance, seed).front();
  const auto route = find_route(query, question.start, question.goals,
                                {.clearance = kClearance, .searches = 1, .least_within = 0.0});
  return certify(query, route.value().waypoints, {.clearance = kClearance}).value();
}

}  // namespace

TEST_CASE("hunt: nothing on a line proved free is too near, however thin and close") {
  const HuntResult found = hunt(1, 600, 60);
  CHECK(found.contradicted == 0);
  CHECK(found.free > 590);  // and little is given away
  CHECK(found.samples > 50000);
}

TEST_CASE("routes in clutter have evidence that holds when other code checks it") {
  for (const Clutter clutter : kAllClutter) {
    const CellQuery query(clutter_cell(clutter), "");
    for (const std::uint64_t seed : {1U, 2U, 3U}) {
      const Certificate certificate = some_certificate(query, clutter, seed);
      INFO(name_of(clutter) << ", seed " << seed);
      const auto checked = check_certificate(query.cell(), query.arm(), certificate);
      REQUIRE(checked);
      CHECK(checked->stretches > 0);
      CHECK(checked->least_left > 0.0);
      for (const Stretch& stretch : certificate.stretches) {
        REQUIRE(stretch.distance - stretch.travel > kClearance);
        REQUIRE(stretch.normal.norm() == Approx(1.0));
      }
      // And it is true: the replay finds nothing nearer anywhere.
      ReplayClearance replay(query.cell(), query.arm());
      for (std::size_t i = 0; i + 1 < certificate.waypoints.size(); ++i)
        for (int k = 0; k <= 40; ++k) {
          const Posture q = certificate.waypoints[i] +
                            (certificate.waypoints[i + 1] - certificate.waypoints[i]) * k / 40.0;
          REQUIRE(replay.nearest(q, 1.0).distance > kClearance);
        }
    }
  }
}

TEST_CASE("evidence that was tampered with, or is of another cell, does not hold") {
  const CellQuery query(clutter_cell(Clutter::rack), "");
  const Certificate good = some_certificate(query, Clutter::rack, 4);
  const auto check = [&](const Certificate& certificate) {
    return check_certificate(query.cell(), query.arm(), certificate);
  };
  REQUIRE(check(good));
  const auto refused = [&](const Certificate& bad, const std::string& why) {
    const auto checked = check(bad);
    REQUIRE(!checked);
    CHECK(checked.reason().cause == Cause::not_proved);
    CHECK_THAT(checked.reason().text,
               StartsWith("no: the certificate does not hold: ") && Contains(why));
  };
  Certificate bad = good;
  bad.stretches[7].distance += 1e-3;
  refused(bad, "a distance in it is false");

  // Few can be left out (where the checker finds balls about the parts to be enough).
  RandomStream random(5);
  int needed = 0;
  for (int i = 0; i < 30; ++i) {
    bad = good;
    bad.stretches.erase(bad.stretches.begin() +
                        random.index(static_cast<int>(bad.stretches.size())));
    needed += check(bad) ? 0 : 1;
  }
  CHECK(needed >= 15);
  bad = good;
  bad.stretches.clear();
  refused(bad, "it has no evidence");
  bad = good;
  bad.stretches.front().normal = -bad.stretches.front().normal;
  refused(bad, "");
  bad = good;
  bad.stretches.front().normal.setZero();
  refused(bad, "a distance in it is false");
  bad = good;
  bad.waypoints[1][3] += 0.05;  // not the path that was proved
  refused(bad, "");
  bad = good;
  bad.clearance = 0.2;
  refused(bad, "");
  // A shelf moved into the way.
  const Vector3 tip =
      query.arm().dof() > 0
          ? tool_pose(query.arm(), query.arm().tool("tip"), good.waypoints[1]).position
          : Vector3::Zero();
  const Cell moved = query.cell().with_body_at("shelf_2", Pose::at(tip));
  CHECK(!check_certificate(moved, query.arm(), good));

  bad = good;
  bad.stretches.front().line = 99;
  CHECK_THROWS_AS(check(bad), InputError);
  bad = good;
  bad.waypoints.resize(1);
  CHECK_THROWS_AS(check(bad), InputError);
  bad = good;
  bad.waypoints[0][2] = 50.0;
  CHECK(check(bad).reason().cause == Cause::beyond_limits);
}

TEST_CASE(
    "no evidence is written for a path that touches, or runs closer than can be written down") {
  const Body post{
      .name = "post", .at = Pose::at({0.6, 0, 0}), .parts = {{.shape = Cylinder{0.03, 0.4}}}};
  const CellQuery query(Cell::build({.arms = {planar_arm()}, .fixtures = {post}}), "flat");
  const std::vector<Posture> through{values({0.6, 0.0}), values({-0.6, 0.0})};
  const auto blocked = certify(query, through);
  REQUIRE(!blocked);
  CHECK_THAT(blocked.reason().text, StartsWith("no: the path comes too near: ") &&
                                        Contains("post") && Contains("of move 1"));
  const std::vector<Posture> round{values({0.9, 0.0}), values({0.25, 0.0})};
  const auto evidence = certify(query, round);
  REQUIRE(evidence);
  REQUIRE(evidence->stretches.size() == 2);
  const auto too_many = certify(query, round, {.most_stretches = 1});
  REQUIRE(!too_many);
  CHECK_THAT(too_many.reason().text, Contains("written down in 1 stretches"));
  CHECK_THROWS_AS(certify(query, {values({0.6, 0.0})}), InputError);
  CHECK_THROWS_AS(certify(query, {values({0.6}), values({0.5})}), InputError);
  CHECK_THROWS_AS(certify(query, round, {.clearance = -1.0}), InputError);
}

TEST_CASE(
    "evidence: zones, pieces in the hand and meant contacts count in evidence as in the planner") {
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  const Arm& arm = cell.arm("teasel");
  const Cell holding = cell.with_held("cup_2", "teasel", "", "");
  for (const Cell& one : {cell, holding}) {
    const CellQuery query(one, "teasel");
    const auto evidence =
        certify(query, {arm.stance("home"), arm.stance("before_kiln")}, {.clearance = kClearance});
    REQUIRE(evidence);
    CHECK(check_certificate(one, query.arm(), *evidence));
  }
  // Evidence for the empty hand says nothing of the cup.
  const CellQuery query(cell, "teasel");
  const Certificate empty_hand =
      certify(query, {arm.stance("home"), arm.stance("before_kiln")}, {.clearance = kClearance})
          .value();
  CHECK(!check_certificate(holding, holding.arm("teasel"), empty_hand));
}

TEST_CASE("evidence about two links holds while the link that carries both turns") {
  for (const char* name : {"/bracken.cell.yaml", "/glaze.cell.yaml"}) {
    const Cell cell = load_cell(std::string(DEMO_DIR) + name);
    const CellQuery query(cell, cell.arms().front().name());
    const Arm& arm = query.arm();
    SweepMemory memory(query);
    RandomStream random(61);
    int lines = 0;
    double nearest = 1.0;
    for (int i = 0; i < 4000 && lines < 120; ++i) {
      // From home, where two links are 3.9 mm apart, and from anywhere; long moves.
      const Posture from =
          i % 2 == 0 ? arm.home_or_zero() : random.between(arm.limits().lower, arm.limits().upper);
      const Posture to = from + random.uniform(0.2, 0.8) *
                                    (random.between(arm.limits().lower, arm.limits().upper) - from);
      if (!sweep_line(query, from, to, {.clearance = 0.003}, memory).free) continue;
      ++lines;
      const auto certificate = certify(query, {from, to}, {.clearance = 0.003});
      REQUIRE(certificate);
      const auto checked = check_certificate(cell, arm, *certificate);
      if (!checked) FAIL(checked.reason().text);
      nearest = std::min(nearest, query.nearest(from).distance);
    }
    CHECK(lines >= 60);
    CHECK(nearest < 0.05);
  }
}
