// What a no says beside its sentence: the least shift that would do, the ways a tool may point, the
// postures that came nearest; and clearance link by link.
#include <catch2/catch.hpp>

#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/target_file.hpp"
#include "elbowroom/reach/least_change.hpp"
#include "elbowroom/reach/possible_cone.hpp"
#include "support/any_arm.hpp"
#include "support/cells.hpp"
#include "support/demo.hpp"
#include "support/sanitized.hpp"

using namespace er;

namespace {

const CellQuery& demo() {
  static const CellQuery query(test::demo_cell(), "teasel");
  return query;
}

Target kiln_target(std::string_view name) {
  for (const Target& target : load_targets(DEMO_DIR "/kiln.targets.yaml", test::demo_cell()))
    if (target.name() == name) return target;
  FAIL("no such target");
  return {};
}

Target moved_by(const Target& target, const Vector3& shift) {
  return target.with_pose({target.pose().rotation, target.pose().position + shift});
}

}  // namespace

TEST_CASE("the least shift does it, and a millimetre less does not") {
  const Target target = kiln_target("upper_2");
  const ReachOptions options{.clearance = 0.06};
  for (const Vector3& way : {Vector3(0, 0, 1), Vector3(0, -1, 0), Vector3(0, 0.6, 0.8)}) {
    const auto shift = least_shift(demo(), target, options, way, {1, 160});
    if (!shift) continue;
    CHECK(would_do(demo(), moved_by(target, *shift), options));
    const double size = std::round(shift->norm() * 1e3);
    const Vector3 less = ((size - 1.0) * way).array().round() / 1e3;
    CHECK_FALSE(would_do(demo(), moved_by(target, less), options));
  }
  CHECK(least_shift(demo(), target, options, Vector3::UnitZ(), {1, 160}));
  CHECK_FALSE(least_shift(demo(), target, options, Vector3::UnitZ(), {1, 10}));
  CHECK_FALSE(least_shift(demo(), target, options, Vector3::UnitZ(), {5, 4}));
}

TEST_CASE(
    "a no because of collisions: each branch with what frees it, and all postures to be drawn") {
  const auto found = reach(demo(), kiln_target("upper_2"), {.clearance = 0.06});
  REQUIRE_FALSE(found);
  const Reason& reason = found.reason();
  CHECK(reason.cause == Cause::in_collision);
  REQUIRE(reason.details.size() == 2);
  for (const std::string& line : reason.details)
    CHECK_THAT(line, Catch::Contains("; free with the target moved by [0, 0, "));
  REQUIRE(reason.postures.size() == 4);
  double before = 1.0;
  for (const Posture& posture : reason.postures) {
    const double distance = demo().nearest(posture).distance;
    CHECK(distance < 0.06);
    CHECK(distance <= before + 1e-12);  // the roomiest first
    before = distance;
  }
}

TEST_CASE("the cone a tool may point in holds ways that can be reached, and the line says so") {
  Target target;
  target.place("grip", {rotation_from_rpy(0, -1.5707963, 0), {0.75, 0, 0.7}});
  const Arm& arm = demo().arm();
  const PossibleCone cone = possible_cone(arm, target);
  CHECK(cone.possible > 50);
  CHECK(cone.possible < cone.tried);
  REQUIRE(cone.half_angle > 0.3);
  RandomStream random(4);
  const Vector3 side = any_perpendicular(cone.axis);
  for (int i = 0; i < 40; ++i) {
    const double around = random.uniform(-3.1, 3.1);
    const Vector3 lean = std::cos(around) * side + std::sin(around) * cone.axis.cross(side);
    const double off = random.uniform(0, cone.half_angle);
    const Vector3 way = std::cos(off) * cone.axis + std::sin(off) * lean;
    Target pointing;
    pointing.require(
        {.of = "grip",
         .holds = AtPlace{.at = {rotation_with_z(way), {0.75, 0, 0.7}}, .turn = Band::free()}});
    // By the closed form, all the way round, with nothing in the way.
    const CellQuery alone(Cell::build({.arms = {arm}}), arm.name());
    const auto found = reach(alone, pointing, {.find_remedies = false});
    CHECK((found || found.reason().cause == Cause::in_collision));
  }
  const auto found = reach(demo(), target);
  REQUIRE_FALSE(found);
  CHECK(found.reason().cause == Cause::orientation);
  REQUIRE(found.reason().details.size() == 1);
  CHECK(found.reason().details[0] == cone.text());
  CHECK(found.reason().postures.size() == 1);
}

TEST_CASE("many targets at once have the answers they have alone") {
  const std::vector<Target> targets =
      load_targets(DEMO_DIR "/kiln.targets.yaml", test::demo_cell());
  const auto all = reach_all(demo(), targets, {.clearance = 0.005});
  REQUIRE(all.size() == targets.size());
  for (std::size_t i = 0; i < targets.size(); ++i) {
    const auto alone = reach(demo(), targets[i], {.clearance = 0.005});
    REQUIRE(static_cast<bool>(all[i]) == static_cast<bool>(alone));
    if (!alone) {
      CHECK(fmt::format("{}", all[i].reason()) == fmt::format("{}", alone.reason()));
      continue;
    }
    REQUIRE(all[i]->solutions.size() == alone->solutions.size());
    for (std::size_t k = 0; k < alone->solutions.size(); ++k)
      CHECK(all[i]->solutions[k].posture == alone->solutions[k].posture);
  }
  std::stop_source stopped;
  stopped.request_stop();
  for (const auto& one :
       reach_all(demo(), targets, {}, {.progress = {}, .stop = stopped.get_token()}))
    CHECK((!one && one.reason().cause == Cause::stopped));
}

TEST_CASE(
    "clearance link by link: the least of all is the nearest pair, each is a bound of its own") {
  RandomStream random(6);
  const Arm& arm = demo().arm();
  PartPoses parts(demo());
  std::vector<Nearest> links(arm.links().size()), itself(links.size()), others(links.size());
  for (int i = 0; i < 40; ++i) {
    const Posture q = random.between(arm.limits().lower, arm.limits().upper);
    demo().nearest_of_links(q, parts, links);
    demo().nearest_of_links(q, parts, itself, {.itself = true, .surroundings = false});
    demo().nearest_of_links(q, parts, others, {.itself = false, .surroundings = true});
    double least = 1e9;
    for (std::size_t l = 0; l < links.size(); ++l) {
      if (links[l].first < 0) continue;
      least = std::min(least, links[l].distance);
      CHECK(links[l].distance == Approx(std::min(itself[l].distance, others[l].distance)));
      CHECK(demo().name(links[l].first) == link_name(arm, static_cast<int>(l)));
      if (links[l].distance > 0.0)  // the two points are that far apart
        CHECK((links[l].point_first - links[l].point_second).norm() ==
              Approx(links[l].distance).margin(1e-9));
    }
    CHECK(least == Approx(demo().nearest(q).distance).margin(1e-12));
    for (const Nearest& pair : others)
      if (pair.first >= 0) CHECK_FALSE(demo().name(pair.second).starts_with("teasel."));
  }
}

TEST_CASE("room can be wished of every link, and against the surroundings alone") {
  const Target plain = kiln_target("upper_2");
  Wishes wishes;
  wishes.room_of_every_link = true;
  const auto by_nearest = reach(demo(), plain);
  const auto by_links = reach(demo(), Target(plain).wish(wishes));
  wishes = {};
  wishes.room_to_itself = false;
  const auto outside = reach(demo(), Target(plain).wish(wishes));
  REQUIRE((by_nearest && by_links && outside));
  const ReachSolution& first = by_links->solutions.front();
  std::vector<Nearest> links(demo().arm().links().size());
  PartPoses parts(demo());
  demo().nearest_of_links(first.posture, parts, links);
  double sum = 0.0;
  int count = 0, near = 0;
  for (const Nearest& pair : links) {
    if (pair.first < 0) continue;
    ++count;
    sum += std::clamp(1.0 - pair.distance / 0.05, 0.0, 1.0);
    near += pair.distance < 0.05 ? 1 : 0;
  }
  CHECK(first.room_cost == Approx(sum / count));
  CHECK(first.links_near == near);
  for (const ReachSolution& one : outside->solutions)
    CHECK_FALSE(demo().name(one.room_pair.second).starts_with("teasel."));
  for (const ReachSolution& one : by_nearest->solutions)
    CHECK(one.room_pair.distance == one.nearest.distance);
}

TEST_CASE("beyond the limits: all joints that are, by no more than a posture that is known") {
  RandomStream random(2);
  int seen = 0;
  int several = 0;
  const int rounds = test::kSanitized ? 40 : 400;
  for (int n = 0; n < rounds; ++n) {
    const int joints = 5 + n % 4;
    const Arm arm = test::some_arm(random, joints);
    const CellQuery query(Cell::build({.arms = {arm}}), "any");
    const Limits& limits = arm.limits();
    Posture known = random.between(limits.lower, limits.upper);
    const int k = random.index(joints);
    const double by = random.uniform(0.01, 0.4);
    known[k] = random.index(2) == 0 ? limits.upper[k] + by : limits.lower[k] - by;
    AtPlace place{.at = tool_pose(arm, arm.tool("tip"), known)};
    if (n % 3 > 0) place.turn = Band::free();
    if (n % 3 > 1) place.tilt = kAnyTilt;
    Target target;
    target.require({.holds = place});
    const auto answer = reach(query, target);
    if (answer) continue;
    INFO(n << ": " << answer.reason().text);
    REQUIRE(answer.reason().cause == Cause::beyond_limits);
    ++seen;
    const Posture& told = answer.reason().postures[0];
    const TargetOnArm::Error error = TargetOnArm(arm, target).error(told);
    CHECK(error.position < 1e-5);
    CHECK(error.angle < 1e-4);
    const Posture over = (limits.lower - told).cwiseMax(told - limits.upper);
    const double most = answer.reason().figures[0].value;
    CHECK(over.maxCoeff() == Approx(most).margin(1e-12));
    CHECK(most < 1.02 * by + 1e-4);
    int named = 0;
    for (int j = 0; j < joints; ++j)
      if (over[j] > 1e-9) {
        ++named;
        CHECK_THAT(answer.reason().text,
                   Catch::Contains("joint " + arm.moving_joint(j).name + " would be at "));
      }
    several += named > 1 ? 1 : 0;
  }
  CHECK(seen > rounds / 20);
  CHECK((test::kSanitized || several > 0));
}
