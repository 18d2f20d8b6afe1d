#include "elbowroom/collision/least_clearance.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/files/cell_file.hpp"
#include "support/allocations.hpp"
#include "support/cells.hpp"
#include "support/sampled.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;

TEST_CASE("no sample contradicts a sweep, on the demo cell") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  SweepMemory memory(query);
  RandomStream random(51);
  int free_lines = 0, blocked_lines = 0;
  for (int i = 0; i < (kSanitized ? 150 : 400); ++i) {
    const Posture from = random_posture(random, query.arm());
    Posture to = from;
    for (Eigen::Index k = 0; k < to.size(); ++k) to[k] += random.uniform(-0.5, 0.5);
    const double clearance = random.index(2) == 0 ? 0.0 : 0.01;
    const Sweep sweep = sweep_line(query, from, to, {.clearance = clearance, .tube = {}}, memory);
    const double least = sampled_least(query, from, to, 400);
    if (sweep.free) {
      ++free_lines;
      CHECK(least > clearance);
    } else {
      ++blocked_lines;
      // The pair it names is really too near at the place it names.
      const Posture there = from + sweep.at * (to - from);
      CHECK(query.nearest(there).distance <= clearance + 1e-6);
      CHECK(sweep.blocking.distance <= clearance + 1e-6);
    }
  }
  CHECK(free_lines > 15);
  CHECK(blocked_lines > 50);
}

TEST_CASE("a plate a tenth of a millimetre thin is not jumped over") {
  RandomStream random(52);
  for (int i = 0; i < 60; ++i) {
    const double angle = random.uniform(0.3, 1.2);
    Body plate = box_body("plate", {0.05, 0.0001, 0.05}, {0, 0, 0});
    plate.at = {rotation_about(Vector3::UnitZ(), angle),
                0.65 * Vector3(std::cos(angle), std::sin(angle), 0)};
    const CellQuery query(Cell::build({.arms = {planar_arm()}, .fixtures = {plate}}), "flat");
    SweepMemory memory(query);
    const Sweep sweep = sweep_line(query, values({0, 0}), values({1.5, 0}), {}, memory);
    CHECK_FALSE(sweep.free);
    CHECK(std::abs(1.5 * sweep.at - angle) < 0.04);  // half the arm's own width at that radius
    // With the plate just out of reach the same line is free, and proved so.
    const CellQuery clear(
        query.cell().with_body_at("plate", {plate.at.rotation, plate.at.position * 1.14}), "flat");
    SweepMemory clear_memory(clear);
    CHECK(sweep_line(clear, values({0, 0}), values({1.5, 0}), {}, clear_memory).free);
  }
}

TEST_CASE("grazing by ten micrometres is told apart from touching by ten") {
  // The tip of the straight arm passes a post at a radius of 0.7 m + corner of its box.
  const double corner = std::hypot(0.7, 0.01);
  for (const double gap : {1e-5, -1e-5}) {
    const Body post{.name = "post",
                    .at = Pose::at({corner + 0.02 + gap, 0, 0}),
                    .parts = {{.shape = Cylinder{0.02, 0.4}}}};
    const CellQuery query(Cell::build({.arms = {planar_arm()}, .fixtures = {post}}), "flat");
    SweepMemory memory(query);
    CHECK(sweep_line(query, values({-0.5, 0}), values({0.5, 0}), {}, memory).free == (gap > 0.0));
  }
}

TEST_CASE("a tube is proved for every motion inside it") {
  const Body post{
      .name = "post", .at = Pose::at({0.5, 0.1, 0}), .parts = {{.shape = Cylinder{0.02, 0.4}}}};
  const CellQuery query(Cell::build({.arms = {planar_arm()}, .fixtures = {post}}), "flat");
  SweepMemory memory(query);
  const Posture from = values({-1.0, 0.1}), to = values({-0.2, -0.1});
  REQUIRE(sweep_line(query, from, to, {}, memory).free);
  const double room = sampled_least(query, from, to, 1000);
  const Posture narrow = values({0.05, 0.05}), wide = values({0.6, 0.6});
  CHECK(sweep_line(query, from, to, {.clearance = 0.0, .tube = narrow}, memory).free);
  CHECK_FALSE(sweep_line(query, from, to, {.clearance = 0.0, .tube = wide}, memory).free);
  RandomStream random(53);
  for (int i = 0; i < 3000; ++i) {
    Posture q = from + random.uniform() * (to - from);
    q += random.between(-narrow, narrow);
    CHECK(query.nearest(q).distance > 0.0);
  }
  CHECK(room > 0.0);
}

TEST_CASE("least clearance is bracketed, and no sample lies below the bracket") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  RandomStream random(54);
  for (int i = 0; i < 12; ++i) {
    std::vector<Posture> path{random_posture(random, query.arm())};
    for (int k = 0; k < 3; ++k) {
      Posture next = path.back();
      for (Eigen::Index j = 0; j < next.size(); ++j) next[j] += random.uniform(-0.3, 0.3);
      path.push_back(next);
    }
    const LeastClearance least = least_clearance(query, path);
    CHECK(least.lower <= sampled_least(query, path, 300));
    CHECK(least.nearest.distance <= least.lower + 1.01e-4);
    const auto line = static_cast<std::size_t>(least.at);
    const Posture there = path[line] + (least.at - static_cast<double>(line)) *
                                           (path[std::min(line + 1, path.size() - 1)] - path[line]);
    CHECK(query.nearest(there).distance == Approx(least.nearest.distance).margin(1e-9));
  }
  const LeastClearance still = least_clearance(query, {query.arm().stance("home")});
  CHECK(still.nearest.distance == Approx(query.nearest(query.arm().stance("home")).distance));
}

TEST_CASE("after warming up, a sweep takes nothing from the heap") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  SweepMemory memory(query);
  const Posture from = query.arm().stance("home"), to = query.arm().stance("before_kiln");
  const SweepOptions options{.clearance = 0.005, .tube = {}};
  REQUIRE(sweep_line(query, from, to, options, memory).free);
  const long before = allocations();
  const bool free = sweep_line(query, from, to, options, memory).free;
  const long after = allocations();
  CHECK(free);
  CHECK(after == before);
}

TEST_CASE("an arm with nothing to meet is always free") {
  const CellQuery query(Cell::build({.arms = {wrist_arm()}}), "six");
  SweepMemory memory(query);
  CHECK(sweep_line(query, Posture::Zero(6), Posture::Constant(6, 2.0),
                   {.clearance = 0.5, .tube = {}}, memory)
            .free);
  CHECK(std::isinf(
      least_clearance(query, {Posture::Zero(6), Posture::Constant(6, 1.0)}).nearest.distance));
}

TEST_CASE("a sweep that may only look at so much gives up, and never says free for it") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  SweepMemory memory(query);
  const Posture from = query.arm().stance("home"), to = query.arm().stance("before_kiln");
  const Sweep whole = sweep_line(query, from, to, {.clearance = 0.005}, memory);
  REQUIRE(whole.free);
  CHECK(!whole.gave_up);
  const Sweep part =
      sweep_line(query, from, to, {.clearance = 0.005, .most_checks = whole.checks / 4}, memory);
  CHECK(!part.free);
  CHECK(part.gave_up);
  CHECK(part.checks <= whole.checks);
  CHECK(part.blocking.first >= 0);
}

TEST_CASE("a sweep is free up to the least distance of its line, and not beyond") {
  RandomStream random(77);
  for (const char* file : {"/glaze.cell.yaml", "/bracken.cell.yaml", "/sedge.cell.yaml"}) {
    const Cell cell = load_cell(std::string(DEMO_DIR) + file);
    const CellQuery query(cell, cell.arms().front().name());
    SweepMemory memory(query);
    int lines = 0;
    for (int i = 0; i < 2000 && lines < 60; ++i) {
      const Posture from = random_posture(random, query.arm());
      if (!query.is_free(from, 0.0)) continue;
      Posture to = from;
      for (double& joint : to) joint += random.uniform(-0.3, 0.3);
      const double least = sampled_least(query, from, to, 600);
      if (!(least > 1e-3) || std::isinf(least)) continue;
      ++lines;
      CAPTURE(file, i, least);
      CHECK(!sweep_line(query, from, to, {.clearance = least + 1e-9}, memory).free);
      // Between samples the distance falls by less than this.
      CHECK(sweep_line(query, from, to, {.clearance = least - 2e-4}, memory).free);
    }
    CHECK(lines > 20);
  }
}

TEST_CASE(
    "a bound on the approach holds for every moment of a stretch, and is tight for short ones") {
  RandomStream random(78);
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  const Arm& arm = query.arm();
  const Posture turns = turns_of(arm);
  PartPoses parts(query);
  std::vector<Twist> twists;
  double slack = 0.0;
  int looked = 0;
  for (int i = 0; i < 300; ++i) {
    const Posture q = random_posture(random, arm);
    Posture step(arm.dof());
    for (double& joint : step) joint = random.uniform(-1.0, 1.0);
    const double half = std::array{0.1, 0.02, 0.002}[static_cast<std::size_t>(i % 3)];
    for (const SelfPair& pair : query.pairs().self) {
      const MovingPart& a = query.pairs().moving[static_cast<std::size_t>(pair.first)];
      const MovingPart& b = query.pairs().moving[static_cast<std::size_t>(pair.second)];
      parts.place_at(query, q);
      link_twists(arm, parts, step, twists);
      const auto twist = [&](int link) { return twists[static_cast<std::size_t>(link)]; };
      const Separation now =
          distance(a.shape, parts.pose(pair.first), b.shape, parts.pose(pair.second));
      if (now.distance <= 0.0) continue;
      const CoreShape core_a(a.shape, parts.pose(pair.first));
      const CoreShape core_b(b.shape, parts.pose(pair.second));
      const double ahead =
          least_ahead({core_a, twist(a.link) - twist(pair.shared)},
                      {core_b, twist(b.link) - twist(pair.shared)}, now.normal, half);
      const double bend = bend_within(pair.lever, turns, step.cwiseAbs(), half);
      for (const double on : {-1.0, -0.6, -0.3, 0.0, 0.3, 0.6, 1.0}) {
        parts.place_at(query, q + on * half * step);
        const double then =
            distance(a.shape, parts.pose(pair.first), b.shape, parts.pose(pair.second)).distance;
        ++looked;
        if (then < ahead - bend - 1e-9) FAIL("nearer than the bound: " << then << " " << ahead);
        if (half < 0.01 && std::abs(on) == 1.0) slack = std::max(slack, now.distance - ahead);
      }
    }
  }
  CHECK(looked > 50000);
  CHECK(slack < 0.01);  // 0.002 of a unit of every joint moves no part by more
}
