// Joints that follow others, that turn without end, or that are held; zones; held pieces.
#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/collision/sweep.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/reach/reach.hpp"
#include "elbowroom/rehearse/replay_clearance.hpp"
#include "support/cells.hpp"

using namespace er;
using test::sliding;
using test::turning;
using test::values;

namespace {

// Random arms in which about a third of the moving joints follow an earlier one.
Arm random_arm_with_followers(RandomStream& random) {
  ArmDescription d = test::random_arm(random, 9).description();
  std::vector<std::string> leaders;
  for (Link& link : d.links) {
    if (link.joint.kind == JointKind::fixed) continue;
    if (!leaders.empty() && random.index(3) == 0) {
      link.joint.follow = {
          leaders[static_cast<std::size_t>(random.index(static_cast<int>(leaders.size())))],
          random.uniform(0.2, 1.5) * (random.index(2) == 0 ? 1 : -1), random.uniform(-0.05, 0.05)};
      link.joint.limits = {};
    }
    leaders.push_back(link.joint.name);
  }
  return Arm::build(d);
}

// The same posture on the arm with every follower set free.
std::pair<Arm, Posture> set_free(const Arm& arm, const Posture& q) {
  ArmDescription d = arm.description();
  std::vector<double> all;
  for (std::size_t i = 0; i < d.links.size(); ++i) {
    if (d.links[i].joint.kind == JointKind::fixed) continue;
    d.links[i].joint.follow = {};
    all.push_back(joint_value(arm.links()[i], q));
  }
  Posture full(static_cast<Eigen::Index>(all.size()));
  std::copy(all.begin(), all.end(), full.data());
  return {Arm::build(d), full};
}

ArmDescription gripper() {
  const Part finger{.shape = Box{{0.01, 0.02, 0.08}}, .at = Pose::at({0, 0, 0.04})};
  ArmDescription d{.name = "hand",
                   .links = {{.name = "palm"},
                             sliding("left", {0.02, 0, 0}, {1, 0, 0}, {finger}),
                             sliding("right", {-0.02, 0, 0}, {1, 0, 0}, {finger})}};
  d.links[2].parent = "palm";
  d.links[2].joint.follow = {.joint = "palm_to_left", .ratio = -1.0};
  return d;
}

}  // namespace

TEST_CASE("followers: poses are those of the same arm with every joint set by hand") {
  RandomStream random(21);
  int followers = 0;
  for (int n = 0; n < 40; ++n) {
    const Arm arm = random_arm_with_followers(random);
    const Posture q =
        random.between(Posture::Constant(arm.dof(), -0.2), Posture::Constant(arm.dof(), 0.2));
    const auto [free, full] = set_free(arm, q);
    followers += free.dof() - arm.dof();
    const auto a = link_poses(arm, q);
    const auto b = link_poses(free, full);
    for (std::size_t i = 0; i < a.size(); ++i) {
      CHECK((a[i].position - b[i].position).norm() < 1e-12);
      CHECK((a[i].rotation - b[i].rotation).norm() < 1e-12);
    }
  }
  CHECK(followers > 40);
}

TEST_CASE("followers: the Jacobian agrees with differences") {
  RandomStream random(22);
  for (int n = 0; n < 30; ++n) {
    const Arm arm = random_arm_with_followers(random);
    const Tool& tool = arm.tool("tip");
    const Posture q =
        random.between(Posture::Constant(arm.dof(), -0.2), Posture::Constant(arm.dof(), 0.2));
    Jacobian jacobian;
    tool_jacobian(arm, tool, q, jacobian);
    for (int k = 0; k < arm.dof(); ++k) {
      constexpr double kStep = 1e-6;
      Posture up = q;
      Posture down = q;
      up[k] += kStep;
      down[k] -= kStep;
      const Pose a = tool_pose(arm, tool, down);
      const Pose b = tool_pose(arm, tool, up);
      CHECK((jacobian.col(k).head<3>() - (b.position - a.position) / (2 * kStep)).norm() < 1e-7);
      const Vector3 turn = rotation_vector(b.rotation * a.rotation.transpose()) / (2 * kStep);
      CHECK((jacobian.col(k).tail<3>() - turn).norm() < 1e-7);
    }
  }
}

TEST_CASE("followers: no sample contradicts a proved sweep") {
  RandomStream random(23);
  int proved = 0;
  for (int n = 0; n < 40; ++n) {
    const Arm arm = random_arm_with_followers(random);
    const Cell cell = Cell::build(
        {.arms = {arm}, .fixtures = {test::box_body("block", {0.3, 0.3, 0.3}, {0.5, 0.4, 0.3})}});
    const CellQuery query(cell, "any");
    ReplayClearance replay(cell, arm);
    SweepMemory memory(query);
    const auto posture = [&] {
      return random.between(Posture::Constant(arm.dof(), -0.2), Posture::Constant(arm.dof(), 0.2));
    };
    const Posture from = posture();
    const Posture to = posture();
    if (!sweep_line(query, from, to, {.clearance = 0.002}, memory).free) continue;
    ++proved;
    for (int s = 0; s <= 100; ++s)
      CHECK(replay.nearest(from + s / 100.0 * (to - from), 1.0).distance > 0.002);
  }
  CHECK(proved > 3);
}

TEST_CASE("followers: limits of a leader are tightened to what its followers can do") {
  ArmDescription d = gripper();
  d.links[2].joint.follow.ratio = -2.0;
  d.links[2].joint.limits = {.lower = -0.1, .upper = 0.02, .velocity = 0.4};
  const Arm arm = Arm::build(d);
  REQUIRE(arm.dof() == 1);
  CHECK(arm.limits().lower[0] == Approx(-0.01));
  CHECK(arm.limits().upper[0] == Approx(0.05));
  CHECK(arm.limits().velocity[0] == Approx(0.2));
  CHECK(arm.limit_breach(values({0.06})) ==
        "joint palm_to_left would be at 60.0 mm, limit 50.0 mm");
}

TEST_CASE("followers: loops, strangers and ranges without a common value are refused") {
  ArmDescription d = gripper();
  d.links[1].joint.follow = {.joint = "palm_to_right"};
  CHECK_THROWS_WITH(Arm::build(d), Catch::Contains("follows itself in the end"));
  d = gripper();
  d.links[2].joint.follow.joint = "palm_to_lift";
  CHECK_THROWS_WITH(Arm::build(d), Catch::Contains("did you mean 'palm_to_left'?"));
  d = gripper();
  d.links[2].joint.follow.offset = 5.0;
  CHECK_THROWS_WITH(Arm::build(d), Catch::Contains("have no value in common"));
  d = gripper();
  d.links[2].joint.follow.ratio = 0.0;
  CHECK_THROWS_AS(Arm::build(d), InputError);
}

TEST_CASE("zero and sense move the scale of a joint, not the arm") {
  Joint joint = turning("a", {0.1, 0, 0}, {0, 0, 2}).joint;
  const Joint plain = joint;
  set_zero_and_sense(joint, 0.5, true);
  for (const double q : {-1.0, 0.0, 0.7})
    CHECK((pose_at(joint, q).rotation - rotation_about({0, 0, 1}, 0.5 - q)).norm() < 1e-14);
  CHECK(pose_at(joint, 0.2).position == pose_at(plain, 0.2).position);
}

TEST_CASE("a continuous joint is reached by the turn nearest to the start") {
  ArmDescription d = test::planar_arm().description();
  d.links[1].joint.continuous = true;
  d.links[1].joint.limits.lower = -std::numeric_limits<double>::infinity();
  d.links[1].joint.limits.upper = std::numeric_limits<double>::infinity();
  const Arm arm = Arm::build(d);
  const Cell cell = Cell::build({.arms = {arm}});
  const Posture there = values({0.4, 0.5});
  const Target target = Target{}.place("tip", tool_pose(arm, arm.tool("tip"), there));
  const Posture from = values({20.0, 0.0});
  const auto found = reach(cell, "flat", target, {.from = from});
  REQUIRE(found);
  for (const Posture& q : found->postures()) {
    CHECK(std::abs(q[0] - from[0]) <= 3.1416);
    CHECK((tool_pose(arm, arm.tool("tip"), q).position - target.pose().position).norm() < 1e-4);
  }
}

TEST_CASE("held joints stay where they are while the others answer") {
  const Cell cell = Cell::build({.arms = {test::wrist_arm()}});
  const Arm held = cell.arm("six").holding({{"l4_to_l5", 0.6}, {"base_to_l1", 0.25}});
  const Posture goal = values({0.25, 0.3, 0.2, -0.4, 0.6, 0.1});
  const Pose pose = tool_pose(held, held.tool("tip"), goal);
  const auto found = reach(cell.with_arm(held), "six", Target{}.place("tip", pose));
  REQUIRE(found);
  for (const Posture& q : found->postures()) {
    CHECK(q[0] == 0.25);
    CHECK(q[4] == 0.6);
  }
  // A held joint stays held when the arm takes something up or moves to another mount.
  const Body cup{.name = "cup", .parts = {{.shape = Sphere{0.03}}}};
  const Cell with_cup = Cell::build({.arms = {held}, .pieces = {cup}});
  const Arm carrying = with_cup.with_held("cup", "six", "tip", Pose{}).arm("six");
  CHECK(carrying.limits().lower[4] == 0.6);
  CHECK(carrying.mounted_at(Pose::at({1, 0, 0})).limits().upper[4] == 0.6);
  CHECK_THROWS_WITH(cell.arm("six").holding({{"l4_to_l5", 5.0}}),
                    Catch::Contains("cannot be held at 286.48 deg"));
  CHECK_THROWS_AS(cell.arm("six").holding({{"l9", 0.0}}), InputError);
}

TEST_CASE("stations") {
  ArmDescription d = test::planar_arm().description();
  d.stations = {{"left", Pose::at({0, 1, 0})}, {"right", Pose::at({0, -1, 0})}};
  const Arm arm = Arm::build(d);
  CHECK(arm.at_station("right").mount().position.y() == -1.0);
  CHECK_THROWS_WITH(arm.at_station("rihgt"), Catch::Contains("did you mean 'right'?"));
}

TEST_CASE("zones: distances count from as far outside as the zone asks") {
  const Zone zone{.name = "doorway",
                  .at = Pose::at({0.9, 0, 0}),
                  .parts = {{.shape = Box{{0.2, 0.2, 0.2}}}},
                  .distance = 0.04};
  const Cell cell = Cell::build({.arms = {test::planar_arm()}, .zones = {zone}});
  const CellQuery query(cell, "flat");
  // The tip ends at 0.7, the box begins at 0.8: 100 mm, 40 of which the zone keeps.
  const Nearest nearest = query.nearest(values({0, 0}));
  CHECK(nearest.distance == Approx(0.06).margin(1e-9));
  CHECK(query.name(nearest.second) == "doorway");
  CHECK(query.is_free(values({0, 0}), 0.059));
  CHECK_FALSE(query.is_free(values({0, 0}), 0.061));
  SweepMemory memory(query);
  CHECK(sweep_line(query, values({0, 0}), values({0.3, 0}), {.clearance = 0.05}, memory).free);
  CHECK_FALSE(
      sweep_line(query, values({0, 0}), values({0.3, 0}), {.clearance = 0.07}, memory).free);
  ReplayClearance replay(cell, cell.arm("flat"));
  CHECK(replay.nearest(values({0, 0}), 1.0).distance == Approx(0.06).margin(1e-9));
  Zone looks = zone;
  looks.parts[0].collides = false;
  CHECK_THROWS_WITH(Cell::build({.zones = {looks}}), Catch::Contains("always counts"));
  CHECK_THROWS_WITH(Cell::build({.zones = {{.name = "empty"}}}),
                    Catch::Contains("zone 'empty' has no volume"));
}

TEST_CASE("a piece that is held moves with the arm and may touch what it might before") {
  const Body cup{.name = "cup",
                 .at = Pose::at({0.7, 0, 0}),
                 .parts = {{.shape = Cylinder{0.03, 0.08}}},
                 .mass = 0.25,
                 .grasps = {{"side", Pose::at({0, 0, 0.01})}}};
  const Cell cell =
      Cell::build({.arms = {test::planar_arm()},
                   .fixtures = {test::box_body("board", {0.2, 0.2, 0.02}, {0.7, 0, -0.06})},
                   .pieces = {cup},
                   .contacts = {{"cup", "board"}}});
  const Cell held = cell.with_held("cup", "flat", "", "side");
  CHECK(held.pieces().empty());
  const Arm& arm = held.arm("flat");
  CHECK(arm.dof() == 2);
  const auto poses = link_poses(arm, values({0, 0}));
  const Pose in_hand = poses[static_cast<std::size_t>(arm.link_index("cup"))];
  CHECK((in_hand.position - Vector3(0.7, 0, -0.01)).norm() < 1e-12);
  CHECK(arm.links().back().inertial.mass == 0.25);
  CHECK(held.contact_is_meant("flat.cup", "board"));
  const Cell released = held.with_released("cup", in_hand);
  REQUIRE(released.pieces().size() == 1);
  CHECK(released.pieces()[0].mass == 0.25);
  CHECK(released.contact_is_meant("cup", "board"));
  CHECK(released.arm("flat").links().size() == cell.arm("flat").links().size());
  CHECK(released.pieces()[0].grasps.size() == 1);
  CHECK_THROWS_AS(cell.with_held("cop", "flat", "", "side"), InputError);
  CHECK_THROWS_WITH(cell.with_held("cup", "flat", "", "top"), Catch::Contains("grasp of piece"));
  CHECK_THROWS_AS(cell.with_released("upper", Pose{}), InputError);
  CHECK_THROWS_WITH(held.with_released("fore", Pose{}),
                    Catch::Contains("unknown held piece 'fore'"));
}

TEST_CASE("a held piece is checked against the link before the palm, and not against fingers") {
  // A palm on a wrist, a finger on the palm, a long rod in the hand that swings into the forearm.
  const auto box = [](const Vector3& size, const Vector3& at) {
    return Part{.shape = Box{size}, .at = Pose::at(at)};
  };
  ArmDescription d{.name = "a",
                   .links = {{.name = "base"},
                             turning("forearm", {0, 0, 0}, Vector3::UnitZ(),
                                     {box({0.3, 0.02, 0.02}, {0.15, 0, 0})}),
                             turning("palm", {0.35, 0, 0}, Vector3::UnitZ(),
                                     {box({0.04, 0.04, 0.02}, {0.02, 0, 0})}),
                             sliding("finger", {0.05, 0, 0}, Vector3::UnitY(),
                                     {box({0.06, 0.01, 0.02}, {0.03, 0, 0})})},
                   .tools = {{.name = "grip", .link = "palm", .tip = Pose::at({0.06, 0, 0})}}};
  const Body rod{.name = "rod",
                 .parts = {box({0.4, 0.01, 0.01}, {0, 0, 0})},
                 .grasps = {{"end", Pose::at({-0.15, 0, 0})}}};
  const Cell cell = Cell::build({.arms = {Arm::build(d)}, .pieces = {rod}});
  const Cell held = cell.with_held("rod", "a", "grip", "end");
  const CellQuery query(held, "a");
  ReplayClearance replay(held, held.arm("a"));
  // Straight ahead the rod's short end stays clear of the forearm: 350 + 60 - 50 - 300 mm.
  const Posture straight = values({0.0, 0.0, 0.0});
  CHECK(query.nearest(straight).distance == Approx(0.06).margin(1e-9));
  CHECK(query.name(query.nearest(straight).second) == "a.rod");
  CHECK(replay.nearest(straight, 1.0).distance == Approx(0.06).margin(1e-9));
  // Folded back it lies along the forearm.
  const Posture folded = values({0.0, 3.0, 0.3});  // the finger out of the way
  CHECK(query.nearest(folded).distance < 0.0);
  CHECK(replay.nearest(folded, 1.0).distance < 0.0);
  // As a plain link of the arm it would be a neighbour of the forearm and never looked at.
  ArmDescription plain = held.arm("a").description();
  plain.links.back().held = false;
  const CellQuery careless(Cell::build({.arms = {Arm::build(plain)}}), "a");
  CHECK(careless.nearest(folded).distance > 0.0);
}

TEST_CASE("the furthest slide of a follower is what its leader allows") {
  ArmDescription d = gripper();
  d.links[2].joint.limits = {};
  d.links[2].joint.follow = {.joint = "palm_to_left", .ratio = -2.0, .offset = 0.01};
  const Arm arm = Arm::build(d);
  CHECK(arm.furthest_slide(1) == Approx(0.3));
  CHECK(arm.furthest_slide(2) == Approx(0.59));  // -2 * 0.3 + 0.01
  CHECK(arm.furthest_slide(0) == 0.0);
}
