// Cells of meshes, clouds, cones and half-spaces: the same answers as from other shapes of the same
// solids, and proofs that hold.
#include <catch2/catch.hpp>

#include "elbowroom/collision/free_postures.hpp"
#include "elbowroom/collision/sweep.hpp"
#include "elbowroom/rehearse/check_certificate.hpp"
#include "elbowroom/rehearse/replay_clearance.hpp"
#include "elbowroom/route/route.hpp"
#include "support/allocations.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"
#include "support/instruction_sets.hpp"
#include "support/meshes.hpp"
#include "support/postures.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

// Two joints that slide a small ball about over a block.
Arm ball_on_slides() {
  Link base{.name = "base"};
  Link across = sliding("across", {0, 0, 0}, Vector3::UnitX());
  Link ball = sliding("ball", {0, 0, 0}, Vector3::UnitY(), {{.shape = Sphere{0.01}}});
  across.joint.limits.lower = ball.joint.limits.lower = -2.0;
  across.joint.limits.upper = ball.joint.limits.upper = 2.0;
  return Arm::build({.name = "slides", .links = {base, across, ball}});
}

}  // namespace

TEST_CASE("the same solids as other shapes: the same postures and lines are free") {
  RandomStream random(31);
  for (const Clutter clutter : kAllClutter) {
    const CellQuery plain(clutter_cell(clutter), "");
    const CellQuery other(in_other_shapes(plain.cell()), "");
    SweepMemory plain_memory(plain);
    SweepMemory other_memory(other);
    INFO(name_of(clutter));
    int free_postures = 0;
    int free_lines = 0;
    for (int i = 0; i < 150; ++i) {
      const Posture q = random_posture(random, plain.arm());
      const double clearance = random.uniform(0.0, 0.03);
      const bool is_free = plain.is_free(q, clearance);
      REQUIRE(other.is_free(q, clearance) == is_free);
      const Nearest here = plain.nearest(q);
      if (here.distance > 0.0)
        REQUIRE(other.nearest(q).distance == Approx(here.distance).margin(1e-7));
      else
        REQUIRE(other.nearest(q).distance < 1e-9);
      free_postures += is_free ? 1 : 0;
      if (!is_free) continue;
      const Posture to = q + 0.3 * (random_posture(random, plain.arm()) - q);
      const bool line = sweep_line(plain, q, to, {.clearance = clearance}, plain_memory).free;
      REQUIRE(sweep_line(other, q, to, {.clearance = clearance}, other_memory).free == line);
      free_lines += line ? 1 : 0;
    }
    CHECK(free_postures > 10);
    CHECK(free_lines > 3);
  }
}

TEST_CASE("among meshes and clouds, postures side by side are free as each is alone") {
  const CellQuery query(measured_cell(), "");
  RandomStream random(32);
  PostureChecker checker(query);
  std::vector<Posture> postures;
  for (int i = 0; i < 800; ++i) postures.push_back(random_posture(random, query.arm()));
  const auto free = std::make_unique<bool[]>(postures.size());
  std::vector<bool> first;
  int count = 0;
  checker.check(postures, 0.01, {free.get(), postures.size()});
  for (std::size_t i = 0; i < postures.size(); ++i) {
    REQUIRE(free[i] == query.is_free(postures[i], 0.01));
    count += free[i] ? 1 : 0;
    first.push_back(free[i]);
  }
  CHECK(count > 50);
  CHECK(count < 750);
  on_each_instruction_set([&](const std::string& name) {
    INFO(name);
    PostureChecker again(query);
    again.check(postures, 0.01, {free.get(), postures.size()});
    CHECK(std::equal(first.begin(), first.end(), free.get()));
  });
}

TEST_CASE("among meshes and clouds, what is proved free is, and what is not has something near") {
  const CellQuery query(measured_cell(), "");
  ReplayClearance replay(query.cell(), query.arm());
  RandomStream random(33);
  SweepMemory memory(query);
  int free = 0;
  int blocked = 0;
  for (int i = 0; i < 300; ++i) {
    const Posture from = random_posture(random, query.arm());
    const Posture step = random.uniform(0.05, 0.4) * (random_posture(random, query.arm()) - from);
    const Sweep sweep = sweep_line(query, from, from + step, {.clearance = 0.005}, memory);
    if (sweep.free) {
      ++free;
      for (int k = 0; k <= 20; ++k)
        REQUIRE(replay.nearest(from + k / 20.0 * step, 1.0).distance > 0.005);
    } else {
      ++blocked;
      REQUIRE(replay.nearest(from + sweep.at * step, 1.0).distance <= 0.005 + 1e-7);
    }
  }
  CHECK(free > 30);
  CHECK(blocked > 30);
  const Posture from = random_posture(random, query.arm());
  const Posture to = random_posture(random, query.arm());
  const long before = allocations();
  sweep_line(query, from, to, {.clearance = 0.005}, memory);
  CHECK(allocations() == before);
}

TEST_CASE("what begins inside a solid mesh is not free, though no surface is near") {
  const Body block{.name = "block", .parts = {{.shape = box_mesh({1.0, 1.0, 1.0}, 2)}}};
  const Cell cell = Cell::build({.arms = {ball_on_slides()}, .fixtures = {block}});
  const CellQuery query(cell, "");
  const Posture inside = values({0.1, 0.2});
  SweepMemory memory(query);
  CHECK_FALSE(query.is_free(inside));
  CHECK(query.nearest(inside).distance == Approx(-0.31).margin(1e-9));
  const Sweep sweep = sweep_line(query, inside, values({-0.2, 0.1}), {.clearance = 0.0}, memory);
  CHECK_FALSE(sweep.free);
  CHECK(sweep.blocking.distance == Approx(-0.31).margin(1e-9));
  CHECK(query.describe(sweep.blocking) == "slides.ball and block, 310.0 mm deep");
  CHECK(
      sweep_line(query, values({0.6, -0.6}), values({0.6, 0.6}), {.clearance = 0.05}, memory).free);
  std::array<bool, 2> free{};
  PostureChecker checker(query);
  checker.check(std::vector<Posture>{inside, values({0.6, 0.6})}, 0.0, free);
  CHECK_FALSE(free[0]);
  CHECK(free[1]);
  // Nor does a checker of evidence take it: there is nothing near that could be false.
  const Certificate empty{.clearance = 0.01, .waypoints = {inside, values({0.11, 0.2})}};
  const auto checked = check_certificate(cell, cell.arms().front(), empty);
  REQUIRE_FALSE(checked);
  CHECK_THAT(checked.reason().text,
             Contains("one begins inside the other for slides.ball and block"));
}

TEST_CASE("evidence among meshes and clouds holds when other code checks it, and only whole") {
  for (const Cell& cell : {measured_cell(), in_other_shapes(clutter_cell(Clutter::window))}) {
    const CellQuery query(cell, "");
    RandomStream random(34);
    SweepMemory memory(query);
    const auto check = [&](const Certificate& certificate) {
      return check_certificate(query.cell(), query.arm(), certificate);
    };
    int lines = 0;
    int refused = 0;
    long groups = 0;
    while (lines < 12) {
      const Posture from = random_posture(random, query.arm());
      const Posture to =
          from + random.uniform(0.1, 0.5) * (random_posture(random, query.arm()) - from);
      if (!sweep_line(query, from, to, {.clearance = 0.005}, memory).free) continue;
      ++lines;
      const auto certificate = certify(query, {from, to}, {.clearance = 0.005});
      REQUIRE(certificate);
      INFO(certificate->stretches.size() << " stretches");
      if (const auto checked = check(*certificate); !checked) FAIL(checked.reason().text);
      // Without what is about groups of elements, or about fewer of them, it is not whole, unless
      // balls alone will do, as they do for triangles that are small.
      Certificate lacking = *certificate;
      Certificate fewer = *certificate;
      std::erase_if(lacking.stretches, [](const Stretch& s) { return s.second_elements.end > 0; });
      for (Stretch& stretch : fewer.stretches)
        if (stretch.second_elements.end > 0) --stretch.second_elements.end;
      groups += static_cast<long>(certificate->stretches.size() - lacking.stretches.size());
      for (const Certificate& bad : {lacking, fewer})
        if (const auto checked = check(bad); !checked) {
          CHECK(checked.reason().cause == Cause::not_proved);
          ++refused;
        }
    }
    CHECK(groups > 20);
    CHECK(refused >= 2);
  }
}

TEST_CASE("a mesh that is carried about is looked at as it is") {
  // A ring on the slides goes round a post: its hull would not.
  Arm arm = ball_on_slides();
  Link base{.name = "base"};
  Link across = arm.links()[1];
  Link ring = arm.links()[2];
  ring.parts = {
      {.shape = turned_mesh({{0.08, -0.01}, {0.1, -0.01}, {0.1, 0.01}, {0.08, 0.01}}, 48)}};
  across.parent = ring.parent = "";
  const Arm holder = Arm::build({.name = "slides", .links = {base, across, ring}});
  const Body post{.name = "post", .parts = {{.shape = Cylinder{0.03, 0.4}}}};
  const Body far{
      .name = "far", .at = Pose::at({1, 1, 0}), .parts = {{.shape = box_mesh({0.2, 0.2, 0.2})}}};
  const CellQuery query(Cell::build({.arms = {holder}, .fixtures = {post, far}}), "");
  SweepMemory memory(query);
  const auto moves = [&](const Posture& from, const Posture& to) {
    return sweep_line(query, from, to, {.clearance = 0.002}, memory);
  };
  CHECK(moves(values({-0.04, 0}), values({0.04, 0})).free);
  const Sweep out = moves(values({0, 0}), values({0.3, 0}));
  CHECK_FALSE(out.free);
  CHECK(out.at > 0.04 / 0.3);
  const auto certificate =
      certify(query, {values({-0.04, 0}), values({0.04, 0})}, {.clearance = 0.002});
  REQUIRE(certificate);
  CHECK(certificate->stretches.front().first_elements.end > 0);
  CHECK(check_certificate(query.cell(), holder, *certificate));
}

TEST_CASE("a half-space stands for ever, and cannot be carried") {
  const Body floor{
      .name = "floor", .at = Pose::at({0, 0, -0.005}), .parts = {{.shape = HalfSpace{}}}};
  Link base{.name = "base"};
  Link down = sliding("down", {0, 0, 0}, Vector3::UnitZ(), {{.shape = Sphere{0.01}}});
  const Arm arm = Arm::build({.name = "drop", .links = {base, down}});
  const CellQuery query(Cell::build({.arms = {arm}, .fixtures = {floor}}), "");
  CHECK(query.nearest(values({0.1})).distance == Approx(0.095));
  CHECK_FALSE(query.is_free(values({-0.15})));
  SweepMemory memory(query);
  CHECK(sweep_line(query, values({0.3}), values({0.0101}), {.clearance = 0.005}, memory).free);
  CHECK_FALSE(
      sweep_line(query, values({0.3}), values({0.0099}), {.clearance = 0.005}, memory).free);
  const auto certificate = certify(query, {values({0.3}), values({0.02})}, {.clearance = 0.005});
  REQUIRE(certificate);
  CHECK(check_certificate(query.cell(), arm, *certificate));
  const Body loose{.name = "loose", .parts = {{.shape = HalfSpace{}}}};
  CHECK_THROWS_WITH(Cell::build({.arms = {arm}, .pieces = {loose}}),
                    Contains("a half-space cannot move"));
}

TEST_CASE("routes are found among meshes and clouds") {
  const CellQuery query(measured_cell(), "");
  RandomStream random(35);
  int found = 0;
  while (found < 8) {
    const Posture from = random_posture(random, query.arm());
    const Posture to = random_posture(random, query.arm());
    if (!query.is_free(from, 0.005) || !query.is_free(to, 0.005)) continue;
    const auto route = find_route(query, from, {to}, {.clearance = 0.005});
    REQUIRE(route);
    ++found;
    CHECK(certify(query, route->waypoints, {.clearance = 0.005}));
  }
}
