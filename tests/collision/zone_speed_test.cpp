// Zones that cap speeds: the bound against dense sampling, pacing under it, and the replay's own
// measurement.
#include "elbowroom/collision/zone_speed.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/pace/pace.hpp"
#include "elbowroom/rehearse/rehearse.hpp"
#include "support/cells.hpp"

using namespace er;
using test::values;

namespace {

Zone slow_box(const Vector3& at, const Vector3& size, double speed) {
  return {.name = "walkway", .at = Pose::at(at), .parts = {{.shape = Box{size}}}, .speed = speed};
}

// The fastest corner of any part of a link that is in the zone, by brute force. Boxes only.
double sampled_share(const CellQuery& query, const Motion& motion, const Zone& zone) {
  const Arm& arm = query.arm();
  constexpr int kSamples = 4000;
  double most = 0.0;
  JointState state;
  for (int i = 0; i <= kSamples; ++i) {
    motion.at(motion.duration() * i / kSamples, state);
    const auto poses = link_poses(arm, state.position);
    constexpr double kStep = 1e-6;
    const auto next = link_poses(arm, Posture(state.position + kStep * state.velocity));
    for (std::size_t l = 0; l < poses.size(); ++l)
      for (const Part& part : arm.links()[l].parts) {
        const double d =
            distance(part.shape, poses[l] * part.at, zone.parts[0].shape, zone.at).distance;
        if (d > zone.distance) continue;
        const Vector3 half = half_extent(part.shape, Matrix3::Identity());
        for (int c = 0; c < 8; ++c) {
          const Vector3 corner =
              part.at * Vector3(c & 1 ? half.x() : -half.x(), c & 2 ? half.y() : -half.y(),
                                c & 4 ? half.z() : -half.z());
          most = std::max(most, (next[l] * corner - poses[l] * corner).norm() / kStep);
        }
      }
  }
  return most / zone.speed;
}

// Two links with boxes, turning in a plane: 0.4 m and 0.3 m, 0.04 m thick.
Arm boxed_arm() {
  ArmDescription d = test::planar_arm().description();
  for (Link& link : d.links)
    for (Part& part : link.parts) {
      const Vector3 half = half_extent(part.shape, part.at.rotation);
      part.shape = Box{2.0 * half};
      part.at.rotation = Matrix3::Identity();
    }
  return Arm::build(d);
}

}  // namespace

TEST_CASE("the speed in a zone is bounded from above, and closely") {
  const Zone zone = slow_box({0.45, 0.35, 0}, {0.3, 0.2, 0.5}, 0.05);
  const Cell cell = Cell::build({.arms = {boxed_arm()}, .zones = {zone}});
  const CellQuery query(cell, "flat");
  RandomStream random(4);
  int met = 0;
  for (int n = 0; n < 25; ++n) {
    const std::vector<Posture> ends{random.between(query.arm().limits().lower.cwiseMax(-1.5),
                                                   query.arm().limits().upper.cwiseMin(1.5)),
                                    random.between(query.arm().limits().lower.cwiseMax(-1.5),
                                                   query.arm().limits().upper.cwiseMin(1.5))};
    const auto fast = pace(ends, query.arm());
    REQUIRE(fast);
    const double sampled = sampled_share(query, fast->motion, zone);
    const double bound = fastest_in_zones(query, fast->motion).share;
    CHECK(bound >= sampled * (1 - 1e-6));
    // The bounding sphere of a long part may be faster than its corners, not by much here.
    if (sampled > 1.5) {
      ++met;
      CHECK(bound <= 1.25 * sampled + 0.02);
    }
    const auto slow = pace(ends, query);
    REQUIRE(slow);
    CHECK(sampled_share(query, slow->motion, zone) <= 1.0);
    // And is seen to be: whoever audits it finds the same.
    CHECK(fastest_in_zones(query, slow->motion).share <= 1.0);
    const double needed = fast->motion.duration() * std::max(1.0, bound);
    CHECK(slow->motion.duration() >= needed * (1 - 1e-9));
    CHECK(slow->motion.duration() <= needed * 1.02);
  }
  CHECK(met > 5);
}

TEST_CASE("a zone that caps speeds is in no one's way") {
  const Zone zone = slow_box({0.45, 0.0, 0}, {0.3, 0.2, 0.5}, 0.25);
  const Cell cell = Cell::build({.arms = {test::planar_arm()}, .zones = {zone}});
  const CellQuery query(cell, "flat");
  CHECK(query.is_free(values({0, 0})));
  const auto through = pace({values({-1.0, 0}), values({1.0, 0})}, query);
  REQUIRE(through);
  REQUIRE(through->slowed.size() == 1);
  CHECK(through->slowed[0].zone == "walkway");
  CHECK(through->slowed[0].stretch == 1);
  CHECK(through->report(query.arm()).find("keeps the speed cap of zone walkway") !=
        std::string::npos);
  const auto beside = pace({values({1.0, 0}), values({1.5, 0})}, query);
  REQUIRE(beside);
  CHECK(beside->slowed.empty());
}

TEST_CASE("the replay measures speeds in zones anew") {
  const Zone zone = slow_box({0.45, 0.0, 0}, {0.3, 0.2, 0.5}, 0.25);
  ArmDescription d = test::planar_arm().description();
  d.stances = {{"from", values({-1.0, 0})}, {"to", values({1.0, 0})}};
  const Cell cell = Cell::build({.arms = {Arm::build(d)}, .zones = {zone}});
  const CellQuery query(cell, "flat");
  const Routine routine{.arm = "flat",
                        .start = "from",
                        .steps = {{.name = "over", .action = FreeMove{{AtStance{"to"}}}}}};
  const auto planned = plan_routine(query, routine);
  REQUIRE(planned);
  const Rehearsal kept = rehearse(cell, *planned);
  CHECK(kept.passed());
  CHECK(kept.steps[0].zone == "walkway");
  CHECK(kept.steps[0].zone_share > 0.7);
  CHECK(kept.steps[0].zone_share <= 1.0);
  CHECK_THAT(kept.report(cell), Catch::Contains("speed in walkway "));
  PlannedRoutine faster = *planned;
  faster.steps[0].motion = faster.steps[0].motion.stretched(0.5);
  const Rehearsal broken = rehearse(cell, faster);
  CHECK_FALSE(broken.passed());
  CHECK_THAT(broken.steps[0].fault, Catch::Contains("in zone walkway, which allows 250.0 mm/s"));
}

TEST_CASE("a speed cap in a cell file") {
  const Cell cell = parse_cell(
      "elbowroom: cell/1\nzones:\n  - {name: walkway, speed: 250 mm/s, distance: 50 mm, "
      "parts: [{sphere: {radius: 1 m}}]}\n");
  CHECK(cell.zones()[0].speed == Approx(0.25));
  CHECK(cell.zones()[0].caps_speed());
  CHECK_THROWS_WITH(parse_cell("elbowroom: cell/1\nzones:\n  - {name: walkway, speed: 0 mm/s, "
                               "parts: [{sphere: {radius: 1 m}}]}\n"),
                    Catch::Contains("cell:3:28") && Catch::Contains("must be above zero"));
  CHECK_THROWS_WITH(parse_cell("elbowroom: cell/1\nzones:\n  - {name: walkway, speed: 20 mm, "
                               "parts: [{sphere: {radius: 1 m}}]}\n"),
                    Catch::Contains("mm/s"));
}
