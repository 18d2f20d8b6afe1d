#include "elbowroom/collision/cell_query.hpp"

#include <Eigen/Geometry>
#include <catch2/catch.hpp>

#include "elbowroom/collision/inspection.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "support/allocations.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::test;

namespace {

// The least distance over all pairs, told by nothing but the description: slow and plain.
double brute_nearest(const Cell& cell, const Arm& arm, const Posture& q) {
  const auto poses = link_poses(arm, q);
  double best = std::numeric_limits<double>::infinity();
  const auto group = [&](std::size_t l) {
    while (arm.links()[l].joint.kind == JointKind::fixed && arm.links()[l].parent_index >= 0)
      l = static_cast<std::size_t>(arm.links()[l].parent_index);
    return l;
  };
  const auto joined = [&](std::size_t a, std::size_t b) {
    a = group(a), b = group(b);
    if (a == b) return true;
    const auto up = [&](std::size_t l) {
      return arm.links()[l].parent_index < 0
                 ? l
                 : group(static_cast<std::size_t>(arm.links()[l].parent_index));
    };
    return up(a) == b || up(b) == a;
  };
  for (std::size_t l = 0; l < poses.size(); ++l) {
    for (const Part& part : arm.links()[l].parts) {
      if (!part.collides) continue;
      const auto against = [&](const std::vector<Part>& parts, const Pose& at,
                               const std::string& name) {
        if (cell.contact_is_meant(link_name(arm, static_cast<int>(l)), name)) return;
        for (const Part& other : parts)
          if (other.collides)
            best = std::min(
                best,
                distance(part.shape, poses[l] * part.at, other.shape, at * other.at).distance);
      };
      for (const Body& body : cell.fixtures()) against(body.parts, body.at, body.name);
      for (const Body& body : cell.pieces()) against(body.parts, body.at, body.name);
      for (std::size_t k = 0; k < l; ++k)
        if (!joined(l, k))
          against(arm.links()[k].parts, poses[k], link_name(arm, static_cast<int>(k)));
    }
  }
  return best;
}

Cell cluttered(RandomStream& random, const Arm& arm) {
  CellDescription d{.arms = {arm}};
  for (int i = 0; i < 12; ++i)
    d.fixtures.push_back(
        box_body("b" + std::to_string(i), {0.1, 0.2, 0.05},
                 {random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1)}));
  d.contacts = {{arm.name() + ".l2", "b3"}};
  return Cell::build(d);
}

}  // namespace

TEST_CASE("the nearest pair is the one brute force finds") {
  RandomStream random(41);
  for (int trial = 0; trial < 25; ++trial) {
    const Arm arm = random_arm(random, 8);
    const Cell cell = cluttered(random, arm);
    const CellQuery query(cell, arm.name());
    for (int i = 0; i < 20; ++i) {
      const Posture q = random_posture(random, arm);
      const double expected = brute_nearest(cell, arm, q);
      const Nearest found = query.nearest(q);
      CHECK(found.distance == Approx(expected).margin(1e-9));
      CHECK(query.is_free(q) == (expected > 0.0));
      if (expected > 1e-6) CHECK(query.is_free(q, expected - 1e-7));
      CHECK_FALSE(query.is_free(q, std::max(0.0, expected + 1e-7)));
      if (expected > 0.0)
        CHECK((found.point_first - found.point_second).norm() == Approx(expected).margin(1e-7));
    }
  }
}

TEST_CASE("on the demo cell too, contacts that are meant are left out") {
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  const CellQuery query(cell, "teasel");
  RandomStream random(42);
  for (int i = 0; i < 150; ++i) {
    const Posture q = random_posture(random, query.arm());
    CHECK(query.nearest(q).distance == Approx(brute_nearest(cell, query.arm(), q)).margin(1e-9));
  }
}

TEST_CASE("what two bodies say of each other") {
  const Cell cell = Cell::build(
      {.arms = {planar_arm()}, .fixtures = {box_body("wall", {0.1, 0.1, 0.1}, {0.9, 0, 0})}});
  const CellQuery query(cell, "flat");
  CHECK(query.describe(query.nearest(values({0, 0}))) == "flat.fore and wall, 150.0 mm apart");
  const Cell nearer = cell.with_body_at("wall", Pose::at({0.73, 0, 0}));
  CHECK(CellQuery(nearer, "flat").describe(CellQuery(nearer, "flat").nearest(values({0, 0}))) ==
        "flat.fore and wall, 20.0 mm deep");
  CHECK(query.describe({}) == "nothing to meet");
  Nearest pair = query.nearest(values({0, 0}));
  CHECK(query.describe(pair, 0.2) ==
        "flat.fore and wall, 150.0 mm apart, where 200.0 mm of clearance is asked for");
  pair.distance = 0.15;
  CHECK(query.describe(pair, 0.15) ==
        "flat.fore and wall, 150.0 mm apart, where more than 150.0 mm of clearance is asked for");
}

TEST_CASE("no motion of any part exceeds its lever times the joint travel") {
  RandomStream random(43);
  for (int trial = 0; trial < 60; ++trial) {
    const Arm arm = random_arm(random, 9);
    const CellQuery query(Cell::build({.arms = {arm}}), arm.name());
    for (int i = 0; i < 10; ++i) {
      const Posture from = random_posture(random, arm);
      Posture to = from;
      for (Eigen::Index k = 0; k < to.size(); ++k) to[k] += random.uniform(-0.3, 0.3);
      const Posture travel = (to - from).cwiseAbs();
      const auto a = link_poses(arm, from), b = link_poses(arm, to);
      for (const MovingPart& part : query.pairs().moving) {
        const auto link = static_cast<std::size_t>(part.link);
        // A point of the surface: the capsule's, in a random direction.
        const auto& capsule = std::get<Capsule>(part.shape);
        const Vector3 way =
            Vector3(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1))
                .normalized();
        const Vector3 point = part.at * (capsule.radius * way +
                                         Vector3(0, 0, std::copysign(capsule.length / 2, way.z())));
        CHECK((a[link] * point - b[link] * point).norm() <= part.lever.dot(travel) + 1e-12);
      }
      for (const SelfPair& pair : query.pairs().self) {
        // The bound holds for how the second moves as seen from the first.
        const MovingPart& p = query.pairs().moving[static_cast<std::size_t>(pair.first)];
        const MovingPart& s = query.pairs().moving[static_cast<std::size_t>(pair.second)];
        const auto lp = static_cast<std::size_t>(p.link), ls = static_cast<std::size_t>(s.link);
        const double gap_before = distance(p.shape, a[lp] * p.at, s.shape, a[ls] * s.at).distance;
        const double gap_after = distance(p.shape, b[lp] * p.at, s.shape, b[ls] * s.at).distance;
        CHECK(std::abs(gap_before - gap_after) <= pair.lever.dot(travel) + 1e-7);
      }
    }
  }
}

TEST_CASE("the box tree visits every box in reach and no other") {
  RandomStream random(44);
  std::vector<AlignedBox> boxes;
  for (int i = 0; i < 333; ++i) {
    const Vector3 at(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1));
    boxes.push_back(
        {at, at + Vector3(random.uniform(0, 0.2), random.uniform(0, 0.2), random.uniform(0, 0.2))});
  }
  const BoxTree tree(boxes);
  for (int i = 0; i < 100; ++i) {
    const Vector3 at(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1));
    const AlignedBox probe{at, at + Vector3::Constant(0.1)};
    const double reach = random.uniform(0, 0.4);
    std::vector<int> found;
    tree.for_each_near(
        probe, [&] { return reach; },
        [&](int item) {
          found.push_back(item);
          return true;
        });
    std::sort(found.begin(), found.end());
    std::vector<int> expected;
    for (int k = 0; k < 333; ++k)
      if (boxes[static_cast<std::size_t>(k)].gap_to(probe) <= reach) expected.push_back(k);
    CHECK(found == expected);
  }
  int visits = 0;
  BoxTree().for_each_near(
      {}, [] { return 1.0; }, [&](int) { return ++visits > 0; });
  CHECK(visits == 0);
}

TEST_CASE("other arms stand where they are told, or at home") {
  ArmDescription second{
      .name = "second",
      .mount = Pose::at({1.0, 0, 0}),
      .links = {{.name = "base"},
                turning("bar", {0, 0, 0}, Vector3::UnitZ(),
                        {{.shape = Box{{0.4, 0.02, 0.02}}, .at = Pose::at({0.2, 0, 0})}})}};
  const Cell cell = Cell::build({.arms = {planar_arm(), Arm::build(second)}});
  const Posture straight = values({0, 0});
  CHECK(CellQuery(cell, "flat").nearest(straight).distance == Approx(0.3).margin(1e-9));
  const CellQuery towards(cell, "flat", {{"second", values({3.14159265358979})}});
  CHECK(towards.nearest(straight).distance < -0.01);
}

TEST_CASE("configuration checks take nothing from the heap") {
  const CellQuery query(load_cell(DEMO_DIR "/glaze.cell.yaml"), "teasel");
  PartPoses parts(query);
  const Posture home = query.arm().stance("home");
  const Posture bad = values({0, 2.0, 0.5, 0, 0, 0});
  const long before = allocations();
  const bool free = query.is_free(home, 0.005, parts);
  const bool blocked = !query.is_free(bad, 0.005, parts);
  const Nearest nearest = query.nearest(home, parts);
  const Nearest deep = query.nearest(bad, parts);
  const long after = allocations();
  CHECK(after == before);
  CHECK(free);
  CHECK(blocked);
  CHECK(nearest.distance > 0.005);
  CHECK(deep.distance < 0.0);
}

TEST_CASE("inspection finds what is missing, wrong and odd, worst first") {
  ArmDescription d{.name = "a",
                   .links = {{.name = "base"}, turning("one", {0, 0, 0.1}, Vector3::UnitZ())}};
  d.links[1].joint.limits = {};
  d.links[1].parts = {{.shape = Sphere{0.05}}};
  d.stances = {{"s", values({0.0})}};
  const Inspection found = inspect(
      Cell::build({.arms = {Arm::build(d)}, .fixtures = {box_body("w", {1, 1, 1}, {0, 0, 0})}}));
  REQUIRE(found.findings.size() == 6);
  CHECK(found.findings[0].severity == Severity::wrong);
  CHECK(found.findings[0].subject == "a, stance s");
  CHECK(found.findings[0].text == "a.one and w, 450.0 mm deep");
  CHECK(found.findings[1].text == "no range is stated");
  CHECK(found.findings[2].text == "no velocity is stated");
  CHECK(found.findings[4].text == "it has no tool");
  CHECK(found.findings[5].severity == Severity::odd);
  CHECK(found.findings[5].text == "it has no parts that count for collisions");
  CHECK(found.summary() == "cell: 1 arm, 1 fixture, 0 pieces; 1 wrong, 4 missing, 1 odd");
  CHECK(inspect(Cell::build({})).findings[0].text == "it has no arm");
}
