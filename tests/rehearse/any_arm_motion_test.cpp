// Arms and clutter of every make: a route that was found keeps its clearance where it is looked at
// closely, so does what is left of it in a changed cell and what repairs it, and every way to pace
// it passes the audit.
#include <catch2/catch.hpp>
#include <optional>

#include "elbowroom/pace/pace.hpp"
#include "elbowroom/rehearse/audit_motion.hpp"
#include "elbowroom/route/repair.hpp"
#include "support/cells.hpp"
#include "support/sampled.hpp"
#include "support/sanitized.hpp"

using namespace er;

namespace {

constexpr int kSamples = 300;  // on each line

Shape some_shape(RandomStream& random) {
  switch (random.index(5)) {
    case 0:
      return Box{
          {random.uniform(0.01, 0.5), random.uniform(0.01, 0.5), random.uniform(0.002, 0.3)}};
    case 1:
      return Sphere{random.uniform(0.01, 0.2)};
    case 2:
      return Cylinder{random.uniform(0.01, 0.1), random.uniform(0.02, 0.8)};
    case 3:
      return Capsule{random.uniform(0.002, 0.1), random.uniform(0.02, 0.8)};
    default:
      return Cone{random.uniform(0.05, 0.15), random.uniform(0.0, 0.04), random.uniform(0.05, 0.5)};
  }
}

CellDescription some_cell(RandomStream& random, int links) {
  CellDescription cell{.arms = {test::random_arm(random, links)}};
  const int things = 3 + random.index(10);
  for (int i = 0; i < things; ++i)
    cell.fixtures.push_back(
        {.name = "thing " + std::to_string(i),
         .at = {rotation_from_rpy(random.uniform(-3, 3), random.uniform(-1, 1),
                                  random.uniform(-3, 3)),
                cell.arms.front().mount().position +
                    Vector3(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1))},
         .parts = {{.shape = some_shape(random)}}});
  return cell;
}

// A walk in small steps, so that there is a way back.
std::optional<std::pair<Posture, Posture>> walked(const CellQuery& query, double clearance,
                                                  RandomStream& random) {
  const Arm& arm = query.arm();
  PartPoses parts(query);
  const double kept = clearance + 0.002;
  const auto any_way = [&] {
    return random.between(Posture::Constant(arm.dof(), -0.004),
                          Posture::Constant(arm.dof(), 0.004));
  };
  for (int tries = 0; tries < 200; ++tries) {
    const Posture from = random.between(arm.limits().lower, arm.limits().upper);
    if (!query.is_free(from, kept, parts)) continue;
    Posture to = from;
    Posture step = any_way();
    for (int i = 0; i < 1500; ++i) {
      const Posture next = (to + step).cwiseMax(arm.limits().lower).cwiseMin(arm.limits().upper);
      const bool is_free = query.is_free(next, kept, parts);
      if (is_free) to = next;
      if (!is_free || i % 200 == 0) step = any_way();
    }
    return std::pair(from, to);
  }
  return std::nullopt;
}

// In the midst of the first move of a path stands what stood elsewhere.
CellDescription with_thing_on(CellDescription cell, const std::vector<Posture>& path,
                              RandomStream& random) {
  const auto links = link_poses(cell.arms.front(), 0.5 * (path[0] + path[1]));
  const Pose& link = links[static_cast<std::size_t>(random.index(static_cast<int>(links.size())))];
  cell.fixtures.front().at.position = link.position + 0.15 * test::random_direction(random);
  return cell;
}

void check_pacing(const CellQuery& query, const Route& route) {
  for (const Profile profile : kAllProfiles)
    for (const bool rounded : {false, true}) {
      if (rounded && profile != Profile::time_optimal) continue;
      PaceOptions options{.profile = profile, .clearance = route.clearance};
      if (rounded) options.corners = CornerBounds{.angle = 0.3, .length = 0.1};
      const auto paced = pace(route, query, options);
      INFO(name_of(profile) << (rounded ? ", corners rounded" : ""));
      REQUIRE(paced);
      const bool keeps_jerk = profile == Profile::quintic || profile == Profile::jerk_limited;
      const MotionAudit audit =
          audit_motion(query, paced->motion, {.clearance = route.clearance, .jerk = keeps_jerk});
      INFO(audit.report(query.arm()));
      CHECK(audit.passed());
    }
}

}  // namespace

TEST_CASE(
    "any arm in any clutter: routes, what is left of them in a changed cell, and their pace") {
  RandomStream random(6);
  int found = 0, contacts = 0, repaired = 0;
  const int rounds = test::kSanitized ? 8 : 180;
  for (int n = 0; n < rounds; ++n) {
    INFO("round " << n);
    const CellDescription cell = some_cell(random, 3 + n % 8);
    const CellQuery query(Cell::build(cell), cell.arms.front().name());
    if (query.arm().dof() < 2) continue;
    const double clearance = random.index(2) == 0 ? 0.0 : 0.005;
    const auto ends = walked(query, clearance, random);
    if (!ends) continue;
    const auto route =
        find_route(query, ends->first, {ends->second}, {.clearance = clearance, .tries = 2000});
    if (!route) {
      CHECK(route.reason().text.find("there can be no route") == std::string::npos);
      continue;
    }
    ++found;
    const std::vector<Posture>& path = route->waypoints;
    CHECK(test::sampled_least(query, path, kSamples) > clearance - 1e-9);
    if (path.size() < 2 || (path.front() - path.back()).norm() < 1e-6) continue;
    check_pacing(query, *route);

    const CellQuery changed(Cell::build(with_thing_on(cell, path, random)), query.arm().name());
    if (!changed.is_free(path.front(), clearance) || !changed.is_free(path.back(), clearance))
      continue;
    const StillFree still = still_free(changed, path, clearance);
    const std::vector<Posture> standing(
        path.begin(), path.begin() + static_cast<std::ptrdiff_t>(still.moves) + 1);
    CHECK(test::sampled_least(changed, standing, kSamples) > clearance - 1e-9);
    if (!still.is_all()) {
      ++contacts;
      const Posture& from = path[still.moves];
      const Posture& to = path[still.moves + 1];
      const Posture before = from + std::max(0.0, still.share - 2e-6) * (to - from);
      CHECK(test::sampled_least(changed, from, before, kSamples) > clearance - 1e-9);
      const Posture beyond = from + std::min(1.0, still.share + 1e-5) * (to - from);
      CHECK(changed.nearest(beyond).distance < clearance + 1e-4);
    }
    const auto mended = repair_route(changed, path, {.clearance = clearance, .tries = 1000});
    if (!mended) continue;
    ++repaired;
    const std::vector<Posture>& whole = mended->route.waypoints;
    CHECK(whole.front() == path.front());
    CHECK(whole.back() == path.back());
    CHECK(test::sampled_least(changed, whole, kSamples) > clearance - 1e-9);
  }
  CHECK(found > rounds / 2);
  CHECK(repaired > rounds / 8);
  if (!test::kSanitized) CHECK(contacts > 5);
}
