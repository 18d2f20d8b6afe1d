#include "elbowroom/collision/pair_audit.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/collision/joint_run.hpp"
#include "support/cells.hpp"

using namespace er;

namespace {

const AuditedPair& pair_of(const PairAudit& audit, const std::string& a, const std::string& b) {
  for (const AuditedPair& pair : audit.pairs)
    if (pair.first == a && pair.second == b) return pair;
  FAIL("no pair " << a << ", " << b);
  return audit.pairs.front();
}

// The planar arm, 700 mm long, among boxes near and far.
Cell cell() {
  return Cell::build({.arms = {test::planar_arm()},
                      .fixtures = {test::box_body("near", {0.1, 0.1, 0.1}, {0.5, 0.3, 0}),
                                   test::box_body("far", {0.1, 0.1, 0.1}, {0.9, 0, 0}),
                                   test::box_body("above", {2, 2, 0.1}, {0, 0, 0.08}),
                                   test::box_body("touching", {0.1, 0.1, 0.1}, {0.3, -0.3, 0})},
                      .contacts = {{"flat.fore", "touching"}}});
}

}  // namespace

TEST_CASE("pairs: what can meet, what is proved apart, what is never checked") {
  const PairAudit audit = audit_pairs(cell(), "flat", {.samples = 2000});
  CHECK(pair_of(audit, "flat.fore", "near").verdict == PairVerdict::meets);
  CHECK(pair_of(audit, "flat.fore", "near").met > 20);
  // The tip ends at 700 mm, give or take the bar's width; the box begins at 850.
  const AuditedPair& far = pair_of(audit, "flat.fore", "far");
  CHECK(far.verdict == PairVerdict::kept_apart);
  CHECK(far.proved_distance > 0.0);
  CHECK(far.proved_distance <= 0.15);
  CHECK(far.nearest >= far.proved_distance);
  const AuditedPair& above = pair_of(audit, "flat.upper", "above");
  CHECK(above.verdict == PairVerdict::kept_apart);
  CHECK(above.nearest == Approx(0.02).margin(1e-9));
  CHECK(pair_of(audit, "flat.fore", "touching").verdict == PairVerdict::meant);
  CHECK(pair_of(audit, "flat.upper", "flat.fore").verdict == PairVerdict::joined);
  CHECK(audit.unseen_share == Approx(3.0 / 2000));
  CHECK(audit.report(cell().arm("flat")).find("proved apart") != std::string::npos);
}

TEST_CASE("pairs: no posture contradicts a proof, on random arms") {
  RandomStream random(41);
  int proofs = 0;
  for (int n = 0; n < 12; ++n) {
    const Arm arm = test::random_arm(random, 6);
    const Cell one = Cell::build(
        {.arms = {arm}, .fixtures = {test::box_body("block", {0.2, 0.2, 0.2}, {0.9, 0.6, 0.2})}});
    const PairAudit audit = audit_pairs(one, "any", {.samples = 300, .proof_boxes = 3000});
    const CellQuery query(one, "any");
    for (const AuditedPair& pair : audit.pairs) {
      if (pair.verdict != PairVerdict::kept_apart) continue;
      ++proofs;
      for (int s = 0; s < 200; ++s) {
        const auto poses = link_poses(arm, test::random_posture(random, arm));
        const auto part = [&](const std::string& name) -> std::pair<Shape, Pose> {
          if (name == "block") return {one.fixtures()[0].parts[0].shape, one.fixtures()[0].at};
          const auto link = static_cast<std::size_t>(arm.link_index(name.substr(4)));
          return {arm.links()[link].parts[0].shape, poses[link] * arm.links()[link].parts[0].at};
        };
        const auto [a, pose_a] = part(pair.first);
        const auto [b, pose_b] = part(pair.second);
        CHECK(distance(a, pose_a, b, pose_b).distance >= pair.proved_distance - 1e-9);
      }
    }
  }
  CHECK(proofs > 5);
}

TEST_CASE("pairs: the same seed gives the same answer") {
  const PairAudit a = audit_pairs(cell(), "flat", {.samples = 500, .seed = 9});
  const PairAudit b = audit_pairs(cell(), "flat", {.samples = 500, .seed = 9});
  REQUIRE(a.pairs.size() == b.pairs.size());
  for (std::size_t i = 0; i < a.pairs.size(); ++i) CHECK(a.pairs[i].met == b.pairs[i].met);
}

TEST_CASE("a joint is run up to the first meeting") {
  // The bar of 400 mm, 20 mm wide, meets a box whose side lies 100 mm to the left of its axis.
  const Cell one =
      Cell::build({.arms = {test::planar_arm()},
                   .fixtures = {test::box_body("wall", {2.0, 0.1, 0.1}, {0, 0.25, 0})}});
  const CellQuery query(one, "flat");
  const JointRun run = run_joint(query, test::values({0, 0}), 0);
  // 0.7 sin q + 0.01 cos q = 0.2
  double q = 0.2;
  for (int i = 0; i < 50; ++i)
    q -= (0.7 * std::sin(q) + 0.01 * std::cos(q) - 0.2) / (0.7 * std::cos(q) - 0.01 * std::sin(q));
  CHECK(run.upper <= q);
  CHECK(run.upper == Approx(q).margin(1e-3));
  CHECK(run.met_above == "flat.fore, wall");
  CHECK(run.lower == -3.0);  // 0.7 sin 3 is 99 mm, on the free side
  CHECK(run.met_below.empty());
  const JointRun elbow = run_joint(query, test::values({-0.5, 0}), 1);
  CHECK(elbow.lower == -3.0);
  CHECK(elbow.met_below.empty());
}

TEST_CASE("pairs: other arms move through their ranges, too") {
  // Two planar arms facing each other: 0.7 m of reach each, 0.9 m apart, then 1.5 m.
  for (const double far : {0.9, 1.5}) {
    ArmDescription d = test::planar_arm().description();
    d.name = "other";
    d.mount = Pose::at({far, 0, 0});
    const Arm other = Arm::build(d);
    const Cell both = Cell::build({.arms = {test::planar_arm(), other}});
    const PairAudit audit = audit_pairs(both, "flat", {.samples = 4000});
    const AuditedPair& tips = pair_of(audit, "flat.fore", "other.fore");
    // At home the other arm points away; only when it moves can the two meet.
    CHECK(tips.verdict == (far < 1.4 ? PairVerdict::meets : PairVerdict::kept_apart));
    if (far < 1.4) continue;
    CHECK(tips.proved_distance > 0.0);
    // No pair of postures contradicts the proof.
    RandomStream random(8);
    for (int n = 0; n < 400; ++n) {
      const Posture mine =
          random.between(both.arm("flat").limits().lower, both.arm("flat").limits().upper);
      const Posture theirs = random.between(other.limits().lower, other.limits().upper);
      const auto a = link_poses(both.arm("flat"), mine);
      const auto b = link_poses(other, theirs);
      for (const Part& p : both.arm("flat").links().back().parts)
        for (const Part& q : other.links().back().parts)
          CHECK(distance(p.shape, a.back() * p.at, q.shape, b.back() * q.at).distance >=
                tips.proved_distance);
    }
  }
}
