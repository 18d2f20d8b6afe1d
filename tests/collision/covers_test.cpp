// What is looked at before exact shapes: balls that cover them, the map, and eight intervals at
// once.
#include <catch2/catch.hpp>
#include <cmath>
#include <numeric>

#include "elbowroom/collision/cover_scan.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/collision/elements.hpp"
#include "elbowroom/collision/free_postures.hpp"
#include "elbowroom/collision/point_distance.hpp"
#include "elbowroom/collision/sweep.hpp"
#include "elbowroom/model/hull.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"
#include "support/instruction_sets.hpp"
#include "support/meshes.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;

namespace {

Hull random_hull(RandomStream& random) {
  std::vector<Vector3> points;
  for (int i = 0; i < 30; ++i)
    points.push_back(random_direction(random).cwiseProduct(Vector3(0.3, 0.1, 0.15)) +
                     Vector3(0.05, 0, 0));
  return hull_of(points);
}

std::vector<Shape> some_shapes(RandomStream& random) {
  return {Box{{0.3, 0.1, 0.02}},
          Box{{0.1, 0.1, 0.1}},
          Sphere{0.07},
          Cylinder{0.05, 0.4},
          Cylinder{0.2, 0.05},
          Capsule{0.03, 0.5},
          Capsule{0.1, 0.01},
          random_hull(random),
          Cone{0.2, 0.05, 0.3},
          Cone{0.05, 0.1, 0.4},
          bumpy_mesh(0.2, 2000),
          cloud_of({{0, 0, 0}, {0.1, 0, 0}, {0, 0.2, 0.1}, {0.02, 0.01, 0.3}}, 0.03)};
}

// Somewhere on the surface, or just inside: from inside outwards to where the distance vanishes.
Vector3 surface_point(const Shape& shape, const Vector3& inside, const Vector3& way) {
  double in = 0.0;
  double out = 2.0;
  for (int i = 0; i < 60; ++i) {
    const double middle = 0.5 * (in + out);
    (point_distance(shape, inside + middle * way) <= 0.0 ? in : out) = middle;
  }
  return inside + in * way;
}

}  // namespace

TEST_CASE("a cover holds every point of its shape, at each level") {
  RandomStream random(3);
  for (const Shape& shape : some_shapes(random)) {
    const Cover cover = cover_of(shape);
    const double bulge = bulge_of(cover, shape);
    INFO(name_of(shape) << ", " << cover.size() << " balls, bulge " << bulge);
    REQUIRE(cover.front().next == static_cast<int>(cover.size()));
    const Vector3 inside =
        std::holds_alternative<Hull>(shape) ? Vector3(0.05, 0, 0) : Vector3::Zero();
    for (int i = 0; i < 2000; ++i) {
      const Vector3 point = surface_point(shape, inside, random_direction(random));
      // Down the tree: a ball that holds the point has a finer one that does, or is a leaf.
      bool in_leaf = false;
      for (int ball = 0; ball < static_cast<int>(cover.size());) {
        const CoverBall& here = cover[static_cast<std::size_t>(ball)];
        const bool holds = (point - here.centre).norm() <= here.radius + 1e-12;
        in_leaf = in_leaf || (holds && here.next == ball + 1);
        ball = holds ? ball + 1 : here.next;
      }
      REQUIRE(in_leaf);
    }
    // What is inside is inside.
    for (const CoverBall& ball : cover) {
      const double away = distance(Sphere{1e-9}, Pose::at(ball.centre), shape, {}).distance;
      REQUIRE(away <= -ball.inside + 1e-4);
    }
    // And none stands out further than it says.
    for (std::size_t b = 0; b < cover.size(); ++b) {
      if (cover[b].next != static_cast<int>(b) + 1) continue;
      for (int i = 0; i < 100; ++i) {
        const Vector3 on_ball = cover[b].centre + cover[b].radius * random_direction(random);
        REQUIRE(distance(Sphere{1e-9}, Pose::at(on_ball), shape, {}).distance <= bulge + 1e-8);
      }
    }
  }
}

TEST_CASE("the distance of a point from a shape is that of a tiny ball, and never more") {
  RandomStream random(5);
  for (const Shape& shape : some_shapes(random)) {
    INFO(name_of(shape));
    for (int i = 0; i < 1000; ++i) {
      const Vector3 point = random.uniform(0, 0.6) * random_direction(random);
      const double exact = distance(Sphere{1e-9}, Pose::at(point), shape, {}).distance + 1e-9;
      const double bound = point_distance(shape, point);
      // How deep something is inside a round shape is only found to some tenths of a millimetre.
      const double within = exact > 0.0 ? 1e-7 : 5e-4;
      if (std::holds_alternative<Cloud>(shape) && exact < 0.0) {
        REQUIRE(bound <= 0.0);
        continue;
      }
      if (!std::holds_alternative<Hull>(shape)) REQUIRE(bound == Approx(exact).margin(within));
      REQUIRE(bound <= exact + within);
      // A hull is told exactly to be inside or outside.
      if (std::abs(exact) > 1e-7) REQUIRE((bound > 0.0) == (exact > 0.0));
    }
  }
}

TEST_CASE("distances in lanes are never more than there is, and little less") {
  RandomStream random(6);
  const Pose at{rotation_from_rpy(0.4, -0.3, 1.1), {0.3, -0.2, 0.5}};
  const Vector3 centre(0.1, 0.1, 0.2);
  std::vector<Shape> shapes = some_shapes(random);
  shapes.emplace_back(HalfSpace{});
  shapes.emplace_back(bucket_mesh(0.2, 0.3, 0.02, 32));
  shapes.emplace_back(box_mesh({0.3, 0.2, 0.4}, 40));  // more triangles than are told apart
  for (const Shape& shape : shapes) {
    const std::vector<StandingPart> parts{{.shape = shape, .pose = at}};
    const LaneObstacles obstacles = lane_obstacles(parts, centre, 1.5);
    std::vector<int> all(obstacles.items.size());
    for (std::size_t i = 0; i < all.size(); ++i) all[i] = static_cast<int>(i);
    std::vector<float> out(8 * all.size());
    const auto elements = static_cast<std::size_t>(Elements(shape, {}).size());
    const bool is_exact =
        !std::holds_alternative<Hull>(shape) && obstacles.items.size() == elements;
    INFO(name_of(shape) << ", " << all.size() << " obstacles");
    for (int round = 0; round < 200; ++round) {
      float points[3][8];
      for (int i = 0; i < 8; ++i)
        for (auto& axis : points) axis[i] = static_cast<float>(random.uniform(-0.7, 0.9));
      lane_distances(obstacles, all, points, out.data());
      for (std::size_t i = 0; i < 8; ++i) {
        float told = std::numeric_limits<float>::max();
        for (std::size_t n = 0; n < all.size(); ++n) told = std::min(told, out[8 * n + i]);
        const Vector3 point =
            centre + Vector3(static_cast<double>(points[0][i]), static_cast<double>(points[1][i]),
                             static_cast<double>(points[2][i]));
        double exact = point_distance(shape, at.inverse() * point);
        // Surfaces alone: what is inside a solid is looked at by itself.
        if (std::holds_alternative<Mesh>(shape)) exact = std::abs(exact);
        if (std::holds_alternative<Cloud>(shape) && exact <= 0.0) continue;
        REQUIRE(static_cast<double>(told) <= exact);
        if (is_exact) REQUIRE(static_cast<double>(told) > exact - 2e-5);
      }
    }
  }
}

TEST_CASE("distances in lanes change no faster than told while points go straight on") {
  RandomStream random(16);
  const Pose at{rotation_from_rpy(-0.7, 0.5, 0.3), {0.3, -0.2, 0.5}};
  const Vector3 centre(0.1, 0.1, 0.2);
  std::vector<Shape> shapes = some_shapes(random);
  shapes.emplace_back(HalfSpace{});
  shapes.emplace_back(bucket_mesh(0.2, 0.3, 0.02, 12));
  for (const Shape& shape : shapes) {
    const std::vector<StandingPart> parts{{.shape = shape, .pose = at}};
    const LaneObstacles obstacles = lane_obstacles(parts, centre, 1.5);
    std::vector<int> all(obstacles.items.size());
    std::iota(all.begin(), all.end(), 0);
    std::vector<float> here(8 * all.size());
    std::vector<float> there(8 * all.size());
    std::vector<float> change(8 * all.size());
    INFO(name_of(shape) << ", " << all.size() << " obstacles");
    double told = 0.0;
    double of = 0.0;
    for (int round = 0; round < 400; ++round) {
      float points[3][8];
      float velocities[3][8];
      float moved[3][8];
      const auto share = static_cast<float>(random.uniform(-1, 1));
      float speeds[8];
      for (int i = 0; i < 8; ++i) {
        const Vector3 velocity = random.uniform(0, 0.3) * random_direction(random);
        speeds[i] = static_cast<float>(velocity.norm());
        for (int axis = 0; axis < 3; ++axis) {
          points[axis][i] = static_cast<float>(random.uniform(-0.7, 0.9));
          velocities[axis][i] = static_cast<float>(velocity[axis]);
          moved[axis][i] = points[axis][i] + share * velocities[axis][i];
        }
      }
      lane_distances(obstacles, all, points, here.data());
      lane_approaches(obstacles, all, points, velocities, change.data());
      lane_distances(obstacles, all, moved, there.data());
      for (std::size_t n = 0; n < here.size(); ++n) {
        REQUIRE(change[n] <= 1.0001F * speeds[n % 8]);
        if (here[n] <= 0.0F) continue;
        REQUIRE(there[n] >= here[n] - std::abs(share) * change[n] - 2e-5F);
        told += static_cast<double>(change[n]);
        of += static_cast<double>(speeds[n % 8]);
      }
    }
    CHECK(told < 0.65 * of);  // half of it, were all directions alike
  }
}

TEST_CASE("which of many boxes overlap one is looked for in eights that hold each other") {
  RandomStream random(17);
  for (const int count : {0, 1, 8, 9, 64, 65, 700}) {
    std::vector<AlignedBox> boxes;
    for (int i = 0; i < count; ++i) {
      const Vector3 low = random_direction(random);
      boxes.push_back({low, low + Vector3::Constant(random.uniform(0, 0.2))});
    }
    const Vector3 centre(0.1, -0.2, 0.3);
    const LaneBoxes all = lane_boxes(boxes, centre);
    INFO(count << " boxes");
    // Each level holds the one below it, and is an eighth of it.
    std::size_t expected = boxes.size();
    for (std::size_t l = 0; l < all.levels.size(); ++l) {
      REQUIRE(all.levels[l].count == static_cast<int>((expected + 7) / 8));
      for (std::size_t i = 0; i < 8 * ((expected + 7) / 8); ++i) {
        const auto& eight = all.eights[static_cast<std::size_t>(all.levels[l].first) + i / 8];
        for (int axis = 0; axis < 3; ++axis) {
          const auto low = static_cast<double>(eight.low[axis][i % 8]);
          const auto high = static_cast<double>(eight.high[axis][i % 8]);
          if (i >= expected) {
            REQUIRE(low > high);  // none
          } else if (l == 0) {
            REQUIRE(low <= boxes[i].low[axis] - centre[axis]);
            REQUIRE(low > boxes[i].low[axis] - centre[axis] - 1e-6);
            REQUIRE(high >= boxes[i].high[axis] - centre[axis]);
            REQUIRE(high < boxes[i].high[axis] - centre[axis] + 1e-6);
          } else {
            const auto& held = all.eights[static_cast<std::size_t>(all.levels[l - 1].first) + i];
            for (int k = 0; k < 8; ++k) {
              if (held.low[axis][k] > held.high[axis][k]) continue;
              REQUIRE(low <= static_cast<double>(held.low[axis][k]));
              REQUIRE(high >= static_cast<double>(held.high[axis][k]));
            }
          }
        }
      }
      expected = (expected + 7) / 8;
    }
    CHECK(expected == (count == 0 ? 0 : 1));
  }
}

TEST_CASE("the map of space never says further than it is, and not much less") {
  const CellQuery query(clutter_cell(Clutter::mixed), "");
  const Covers& covers = query.covers();
  RandomStream random(7);
  double most_lost = 0.0;
  for (int i = 0; i < 20000; ++i) {
    Vector3 point;
    for (double& along : point) along = random.uniform(-1, 1) * covers.map.reach();
    double exact = std::numeric_limits<double>::infinity();
    for (const StandingPart& part : query.pairs().standing) {
      exact = std::min(
          exact,
          distance(Sphere{1e-9}, Pose::at(covers.centre + point), part.shape, part.pose).distance +
              1e-9);
    }
    const double told = covers.map.at(point);
    REQUIRE(told <= exact);
    if (exact > 0.0 && exact < SpaceMap::kFurthest) most_lost = std::max(most_lost, exact - told);
  }
  const double cell = 2.0 * covers.map.reach() / SpaceMap::kSide;
  CHECK(most_lost < 1.2 * std::sqrt(3.0) * cell + 0.02);  // hulls are told from their planes
}

TEST_CASE("joints of a tree stand where forward kinematics has their links") {
  RandomStream random(11);
  for (int arms = 0; arms < 40; ++arms) {
    const Arm arm = random_arm(random, 9);
    const LaneTree tree = lane_tree(arm);
    const Posture q = random_posture(random, arm);
    const std::vector<Pose> frames = joint_frames(tree, q);
    const std::vector<Pose> poses = link_poses(arm, q);
    for (std::size_t l = 0; l < poses.size(); ++l) {
      const LaneTree::Carried& link = tree.links[l];
      const Pose at =
          link.joint < 0 ? link.at : frames[static_cast<std::size_t>(link.joint)] * link.at;
      REQUIRE((at.position - poses[l].position).norm() < 1e-12);
      REQUIRE((at.rotation - poses[l].rotation).norm() < 1e-12);
    }
  }
}

namespace {

// A scan of single postures, all lanes, all parts and pairs.
void scan_postures(const CellQuery& query, const std::vector<Posture>& postures, double clearance,
                   CoverScan& scan, CoverScan::Find find = CoverScan::Find::all) {
  const Posture zero = Posture::Zero(query.arm().dof());
  scan.set_line(query.covers(), zero);
  for (std::size_t lane = 0; lane < 8; ++lane)
    for (Eigen::Index e = 0; e < zero.size(); ++e)
      scan.middle[static_cast<std::size_t>(e)][lane] = postures[lane][e];
  scan.half.fill(0.0F);
  scan.clearance = static_cast<float>(clearance);
  std::fill(scan.parts.begin(), scan.parts.end(), std::uint8_t{0xff});
  std::fill(scan.pairs.begin(), scan.pairs.end(), std::uint8_t{0xff});
  er::scan(query.covers(), query.pairs(), scan, find);
}

// The same of the eighths of a line, over all their length.
void scan_line(const CellQuery& query, const Posture& from, const Posture& to, double clearance,
               CoverScan& scan) {
  scan.set_line(query.covers(), to - from);
  for (std::size_t lane = 0; lane < 8; ++lane)
    for (Eigen::Index e = 0; e < from.size(); ++e)
      scan.middle[static_cast<std::size_t>(e)][lane] =
          from[e] + (static_cast<double>(lane) + 0.5) / 8.0 * (to[e] - from[e]);
  scan.half.fill(1.0F / 16.0F);
  scan.clearance = static_cast<float>(clearance);
  std::fill(scan.parts.begin(), scan.parts.end(), std::uint8_t{0xff});
  std::fill(scan.pairs.begin(), scan.pairs.end(), std::uint8_t{0xff});
  er::scan(query.covers(), query.pairs(), scan, CoverScan::Find::all);
}

// From a part to what it may not touch of what stands, by exact shapes.
double room_of(const CellQuery& query, const PartPoses& parts, std::size_t p) {
  double room = std::numeric_limits<double>::infinity();
  for (const StandingPart& other : query.pairs().standing)
    if (!query.pairs().meant[p][static_cast<std::size_t>(other.body)])
      room = std::min(room, distance(query.pairs().moving[p].shape, parts.pose(static_cast<int>(p)),
                                     other.shape, other.pose)
                                .distance);
  return room;
}
double room_between(const CellQuery& query, const PartPoses& parts, const SelfPair& pair) {
  const auto& moving = query.pairs().moving;
  return distance(moving[static_cast<std::size_t>(pair.first)].shape, parts.pose(pair.first),
                  moving[static_cast<std::size_t>(pair.second)].shape, parts.pose(pair.second))
      .distance;
}

}  // namespace

TEST_CASE("what a scan says is clear is clear by exact shapes") {
  RandomStream random(13);
  for (const Clutter clutter : kAllClutter) {
    const CellQuery query(clutter_cell(clutter), "");
    CoverScan scan(query.covers(), query.pairs());
    PartPoses parts(query);
    int open = 0;
    int near = 0;
    int certain = 0;
    int blocked = 0;
    for (int round = 0; round < 60; ++round) {
      std::vector<Posture> postures;
      for (int i = 0; i < 8; ++i) postures.push_back(random_posture(random, query.arm()));
      const double clearance = random.uniform(0.0, 0.05);
      scan_postures(query, postures, clearance, scan);
      std::array<bool, 8> too_near = {};
      for (std::size_t lane = 0; lane < 8; ++lane) {
        parts.place_at(query, postures[lane]);
        for (std::size_t p = 0; p < query.pairs().moving.size(); ++p) {
          const MovingPart& part = query.pairs().moving[p];
          if (part.lever.isZero(0.0)) continue;
          const double exact = room_of(query, parts, p);
          const bool is_open =
              ((scan.open_parts[p].exact | scan.open_parts[p].half_way) >> lane) & 1;
          if (!is_open) REQUIRE(exact > clearance);
          too_near[lane] = too_near[lane] || exact <= clearance;
          open += is_open ? 1 : 0;
          near += exact <= clearance ? 1 : 0;
        }
        for (std::size_t s = 0; s < query.pairs().self.size(); ++s) {
          const double exact = room_between(query, parts, query.pairs().self[s]);
          if (!(((scan.open_pairs[s].exact | scan.open_pairs[s].half_way) >> lane) & 1))
            REQUIRE(exact > clearance);
          too_near[lane] = too_near[lane] || exact <= clearance;
        }
        if ((scan.blocked >> lane) & 1) REQUIRE(too_near[lane]);
        certain += (scan.blocked >> lane) & 1;
        blocked += too_near[lane] ? 1 : 0;
      }
    }
    INFO(name_of(clutter) << ": " << open << " open, " << near << " too near");
    CHECK(near > 0);
    CHECK(certain > blocked / 2);  // most of what is too near is so for certain
    CHECK(open < 2 * near + 300);  // balls leave little to exact shapes that is clear
  }
}

TEST_CASE("what a scan says is proved of an interval is clear there by exact shapes") {
  RandomStream random(14);
  int shares = 0;
  for (const Clutter clutter : kAllClutter) {
    const CellQuery query(clutter_cell(clutter), "");
    CoverScan scan(query.covers(), query.pairs());
    PartPoses parts(query);
    const auto is_half_way = [](const CoverScan::Open& open, std::size_t lane) {
      return ((open.half_way & ~open.exact) >> lane) & 1;
    };
    for (int round = 0; round < (kSanitized ? 2 : 25); ++round) {
      const Posture from = random_posture(random, query.arm());
      const Posture to = from + 0.3 * random_posture(random, query.arm());
      const double clearance = random.uniform(0.0, 0.05);
      scan_line(query, from, to, clearance, scan);
      for (std::size_t lane = 0; lane < 8; ++lane) {
        const double share = static_cast<double>(scan.proved[lane]);
        if (share == 1.0) continue;
        ++shares;
        REQUIRE(share > 0.0);
        for (const double part : {-1.0, -0.5, 0.0, 0.5, 1.0}) {
          const double at = (static_cast<double>(lane) + 0.5) / 8.0 + part * share / 16.0;
          parts.place_at(query, from + at * (to - from));
          for (std::size_t p = 0; p < query.pairs().moving.size(); ++p)
            if (is_half_way(scan.open_parts[p], lane))
              REQUIRE(room_of(query, parts, p) > clearance);
          for (std::size_t s = 0; s < query.pairs().self.size(); ++s)
            if (is_half_way(scan.open_pairs[s], lane))
              REQUIRE(room_between(query, parts, query.pairs().self[s]) > clearance);
        }
      }
    }
  }
  CHECK(shares > (kSanitized ? 3 : 200));
}

TEST_CASE("a look at places alone finds what blocks them, and nothing else") {
  RandomStream random(18);
  int blocked = 0;
  for (const Clutter clutter : {Clutter::rack, Clutter::mixed}) {
    const CellQuery query(clutter_cell(clutter), "");
    CoverScan places(query.covers(), query.pairs());
    CoverScan all(query.covers(), query.pairs());
    for (int round = 0; round < (kSanitized ? 10 : 300); ++round) {
      std::vector<Posture> postures;
      for (int i = 0; i < 8; ++i) postures.push_back(random_posture(random, query.arm()));
      const double clearance = round % 2 == 0 ? 0.0 : 0.01;
      scan_postures(query, postures, clearance, all);
      scan_postures(query, postures, clearance, places, CoverScan::Find::blocked_place);
      CHECK((places.blocked != 0 || all.blocked == 0));
      CHECK(places.open == 0);
      for (std::size_t lane = 0; lane < 8; ++lane) {
        if (((places.blocked >> lane) & 1U) == 0) continue;
        ++blocked;
        CHECK_FALSE(query.is_free(postures[lane], clearance));
      }
    }
  }
  CHECK(blocked > (kSanitized ? 10 : 500));
}

TEST_CASE("a scan gives the same answer on every instruction set") {
  const CellQuery query(clutter_cell(Clutter::rack), "");
  const auto answers = [&] {
    RandomStream random(17);
    CoverScan scan(query.covers(), query.pairs());
    std::vector<int> all;
    for (int round = 0; round < 40; ++round) {
      std::vector<Posture> postures;
      for (int i = 0; i < 8; ++i) postures.push_back(random_posture(random, query.arm()));
      for (const auto find :
           {CoverScan::Find::blocked_place, CoverScan::Find::first_blocked, CoverScan::Find::all}) {
        scan_postures(query, postures, 0.01, scan, find);
        if (scan.blocked != 0)
          for (const int one :
               {scan.first_blocked.lane, scan.first_blocked.item, scan.first_blocked.standing})
            all.push_back(one);
      }
      for (const auto* open : {&scan.open_parts, &scan.open_pairs})
        for (const CoverScan::Open& one : *open) all.push_back(one.exact << 8 | one.half_way);
      scan_line(query, postures[0], postures[0] + 0.1 * (postures[1] - postures[0]), 0.01, scan);
      for (const float share : scan.proved) all.push_back(static_cast<int>(std::ldexp(share, 24)));
    }
    return all;
  };
  const std::vector<int> first = answers();
  on_each_instruction_set([&](const std::string& name) {
    INFO(name);
    CHECK(answers() == first);
  });
}

TEST_CASE("postures looked at side by side are free or not as each is alone") {
  RandomStream random(19);
  for (const Clutter clutter : {Clutter::rack, Clutter::mixed}) {
    const CellQuery query(clutter_cell(clutter), "");
    PostureChecker checker(query);
    std::vector<Posture> postures;
    for (int i = 0; i < 1003; ++i) postures.push_back(random_posture(random, query.arm()));
    const auto free = std::make_unique<bool[]>(postures.size());
    int count = 0;
    for (const double clearance : {0.0, 0.02}) {
      checker.check(postures, clearance, {free.get(), postures.size()});
      for (std::size_t i = 0; i < postures.size(); ++i) {
        REQUIRE(free[i] == query.is_free(postures[i], clearance));
        count += free[i] ? 1 : 0;
      }
    }
    CHECK(count > 100);
    CHECK(count < 1900);
  }
}

TEST_CASE("what is no posture is not free") {
  const CellQuery query(clutter_cell(Clutter::posts), "");
  SweepMemory memory(query);
  PostureChecker checker(query);
  const Posture home = Posture::Zero(7);
  REQUIRE(sweep_line(query, home, home, {}, memory).free);
  for (const double bad : {std::nan(""), std::numeric_limits<double>::infinity(), 1e9}) {
    Posture nowhere = home;
    nowhere[3] = bad;
    CHECK(!sweep_line(query, home, nowhere, {}, memory).free);
    CHECK(!sweep_line(query, nowhere, home, {}, memory).free);
    std::array<bool, 2> free{};
    checker.check(std::vector<Posture>{nowhere, home}, 0.0, free);
    CHECK(!free[0]);
    CHECK(free[1]);
  }
}
