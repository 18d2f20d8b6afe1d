#include "support/clutter.hpp"

#include <algorithm>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/data_sheet.hpp"
#include "elbowroom/model/hull.hpp"
#include "elbowroom/reach/reach.hpp"
#include "support/cells.hpp"
#include "support/meshes.hpp"

namespace er::test {
namespace {

using namespace er::literals;

std::vector<Body> table_with_posts() {
  std::vector<Body> bodies{box_body("table", {0.8, 1.6, 0.04}, {0.65, 0.0, 0.10})};
  const double places[][2] = {{0.42, -0.35}, {0.45, 0.05},  {0.40, 0.42}, {0.62, -0.15},
                              {0.66, 0.28},  {0.60, -0.52}, {0.80, 0.06}};
  int number = 0;
  for (const auto& [x, y] : places)
    bodies.push_back({.name = "post_" + std::to_string(++number),
                      .at = Pose::at({x, y, 0.37}),
                      .parts = {{.shape = Cylinder{0.03, 0.5}}}});
  return bodies;
}

std::vector<Body> shelf_rack() {
  std::vector<Body> bodies;
  for (const double z : {0.15, 0.48, 0.81, 1.14})
    bodies.push_back(
        box_body("shelf_" + std::to_string(bodies.size() + 1), {0.35, 0.96, 0.02}, {0.72, 0.0, z}));
  int number = 0;
  for (const double y : {-0.47, -0.01, 0.47})
    bodies.push_back(
        box_body("side_" + std::to_string(++number), {0.35, 0.02, 1.0}, {0.72, y, 0.65}));
  bodies.push_back(box_body("back", {0.02, 0.96, 1.0}, {0.905, 0.0, 0.65}));
  return bodies;
}

std::vector<Body> box_cavity() {
  const double x = 0.55;
  return {box_body("floor_plate", {0.46, 0.50, 0.02}, {x, 0.0, 0.10}),
          box_body("front_plate", {0.02, 0.50, 0.30}, {x - 0.22, 0.0, 0.26}),
          box_body("rear_plate", {0.02, 0.50, 0.30}, {x + 0.22, 0.0, 0.26}),
          box_body("left_plate", {0.42, 0.02, 0.30}, {x, 0.24, 0.26}),
          box_body("right_plate", {0.42, 0.02, 0.30}, {x, -0.24, 0.26})};
}

// A hole of 0.30 m by 0.30 m, its middle 0.50 m above the floor.
std::vector<Body> wall_with_window() {
  const double x = 0.50;
  return {box_body("wall_below", {0.03, 2.0, 0.35}, {x, 0.0, 0.175}),
          box_body("wall_above", {0.03, 2.0, 0.75}, {x, 0.0, 1.025}),
          box_body("wall_left", {0.03, 0.85, 0.30}, {x, 0.575, 0.50}),
          box_body("wall_right", {0.03, 0.85, 0.30}, {x, -0.575, 0.50})};
}

std::vector<Body> mixed_things() {
  RandomStream random(60);
  const auto size = [&] { return random.uniform(0.03, 0.12); };
  std::vector<Body> bodies;
  while (bodies.size() < 60) {
    const Vector3 at(random.uniform(-1.0, 1.0), random.uniform(-1.0, 1.0),
                     random.uniform(0.05, 1.3));
    const double away = (at - Vector3(0, 0, 0.34)).norm();
    if (away < 0.42 || away > 1.15 || std::hypot(at.x(), at.y()) < 0.25) continue;
    Shape shape;
    switch (bodies.size() % 5) {
      case 0:
        shape = Box{{size(), size(), size()}};
        break;
      case 1:
        shape = Sphere{0.5 * size()};
        break;
      case 2:
        shape = Cylinder{0.4 * size(), 2.0 * size()};
        break;
      case 3:
        shape = Capsule{0.3 * size(), 2.0 * size()};
        break;
      default: {
        std::vector<Vector3> points;
        for (int i = 0; i < 40; ++i)
          points.push_back(
              Vector3(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1))
                  .normalized() *
              size());
        shape = hull_of(points);
      }
    }
    const Matrix3 turned =
        rotation_from_rpy(random.uniform(-3, 3), random.uniform(-1.5, 1.5), random.uniform(-3, 3));
    bodies.push_back({.name = "thing_" + std::to_string(bodies.size() + 1),
                      .at = {turned, at},
                      .parts = {{.shape = shape}}});
  }
  return bodies;
}

struct Region {
  Vector3 low;
  Vector3 high;
  [[nodiscard]] Vector3 any(RandomStream& random) const {
    return {random.uniform(low.x(), high.x()), random.uniform(low.y(), high.y()),
            random.uniform(low.z(), high.z())};
  }
};

// Free postures with the tool's tip somewhere in a region, pointing within `lean` of `along`.
std::vector<Posture> postures_in(const CellQuery& query, const Region& region, const Vector3& along,
                                 double lean, double clearance, RandomStream& random) {
  for (;;) {
    const Vector3 askew(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1));
    const Vector3 z = (along.normalized() + std::tan(lean) * random.uniform() * askew).normalized();
    Pose place = Pose::at(region.any(random));
    place.rotation = rotation_with_z(z) * rotation_from_rpy(0, 0, random.uniform(-3.1, 3.1));
    const auto found = reach(query, Target{}.place("tip", place).within(1e-4, 1e-3),
                             {.starts = 20, .clearance = clearance, .find_remedies = false});
    if (found) return found->postures();
  }
}

Posture anywhere(const CellQuery& query, double clearance, RandomStream& random) {
  for (;;) {
    const Posture q = random.between(query.arm().limits().lower, query.arm().limits().upper);
    if (query.is_free(q, clearance)) return q;
  }
}

}  // namespace

std::string name_of(Clutter clutter) {
  switch (clutter) {
    case Clutter::posts:
      return "table with posts";
    case Clutter::rack:
      return "shelf rack";
    case Clutter::cavity:
      return "box cavity";
    case Clutter::window:
      return "wall with window";
    case Clutter::mixed:
      return "60 mixed primitives";
  }
  return "";
}

Arm clutter_arm() {
  const SevenAxisSheet sheet{
      .shoulder_height = 0.34, .upper_arm = 0.40, .forearm = 0.39, .flange = 0.11};
  std::vector<SheetAxis> axes(7);
  for (std::size_t j = 0; j < 7; ++j)
    axes[j].limits = {.lower = j % 2 == 1 ? -2.1 : -2.9,
                      .upper = j % 2 == 1 ? 2.1 : 2.9,
                      .velocity = 2.0,
                      .acceleration = 8.0,
                      .jerk = 80.0};
  std::vector<Link> links = links_from(sheet, axes);
  // Frames stand at the base, the shoulder, the elbow and the wrist; limbs keep clear of knuckles.
  const auto limb = [](double from, double to, double radius) {
    return std::vector<Part>{capsule_between({0, 0, from}, {0, 0, to}, radius)};
  };
  const std::vector<std::vector<Part>> parts{
      {{.shape = Cylinder{0.08, 0.10}, .at = Pose::at({0, 0, 0.05})}},
      limb(0.16, 0.24, 0.055),
      {{.shape = Sphere{0.06}}},
      limb(0.11, 0.29, 0.05),
      {{.shape = Sphere{0.06}}},
      limb(0.11, 0.28, 0.045),
      {{.shape = Sphere{0.05}}},
      {{.shape = Cylinder{0.035, 0.05}, .at = Pose::at({0, 0, -0.03})}}};
  for (std::size_t l = 0; l < parts.size(); ++l) links[l].parts = parts[l];
  const std::string flange = links.back().name;
  links.push_back({.name = "palm",
                   .joint = {.kind = JointKind::fixed},
                   .parts = {{.shape = Box{{0.06, 0.14, 0.06}}, .at = Pose::at({0, 0, 0.04})}}});
  for (const double side : {-1.0, 1.0})
    links.push_back(
        {.name = side < 0 ? "right_finger" : "left_finger",
         .joint = {.kind = JointKind::fixed},
         .parts = {{.shape = Box{{0.02, 0.015, 0.07}}, .at = Pose::at({0, side * 0.04, 0.105})}},
         .parent = "palm"});
  return Arm::build({.name = "reacher",
                     .links = links,
                     .tools = {{.name = "tip", .link = "palm", .tip = Pose::at({0, 0, 0.13})}},
                     .stances = {{"home", Posture::Zero(7)}}});
}

Cell clutter_cell(Clutter clutter) {
  CellDescription cell{.name = name_of(clutter), .arms = {clutter_arm()}};
  switch (clutter) {
    case Clutter::posts:
      cell.fixtures = table_with_posts();
      break;
    case Clutter::rack:
      cell.fixtures = shelf_rack();
      break;
    case Clutter::cavity:
      cell.fixtures = box_cavity();
      break;
    case Clutter::window:
      cell.fixtures = wall_with_window();
      break;
    case Clutter::mixed:
      cell.fixtures = mixed_things();
      break;
  }
  cell.fixtures.push_back(box_body("floor", {3.0, 3.0, 0.05}, {0.0, 0.0, -0.025}));
  cell.contacts.push_back({"reacher.base", "floor"});
  return Cell::build(std::move(cell));
}

std::vector<RouteQuestion> clutter_questions(const CellQuery& query, Clutter clutter, int count,
                                             double clearance, std::uint64_t seed) {
  RandomStream random(seed);
  const Vector3 down(0, 0, -1);
  const Vector3 ahead(1, 0, 0);
  const auto in = [&](const Region& region, const Vector3& along, double lean) {
    return postures_in(query, region, along, lean, clearance, random);
  };
  const auto bay = [&] {
    const double side = random.index(2) == 0 ? -0.24 : 0.24;
    const double level = random.index(2) == 0 ? 0.31 : 0.64;
    return in({{0.62, side - 0.10, level - 0.06}, {0.74, side + 0.10, level + 0.06}}, ahead, 0.3);
  };
  std::vector<RouteQuestion> questions;
  while (static_cast<int>(questions.size()) < count) {
    RouteQuestion question;
    switch (clutter) {
      case Clutter::posts: {
        const Region among{{0.38, -0.6, 0.20}, {0.80, 0.6, 0.45}};
        question = {in(among, down, 0.8).front(), in(among, down, 0.8)};
        break;
      }
      case Clutter::rack:
        question = {bay().front(), bay()};
        break;
      case Clutter::cavity: {
        const Region inside{{0.42, -0.14, 0.18}, {0.68, 0.14, 0.34}};
        const double side = random.index(2) == 0 ? -0.52 : 0.52;
        const Region beside{{0.35, side - 0.12, 0.12}, {0.75, side + 0.12, 0.40}};
        question = {in(beside, down, 1.0).front(), in(inside, down, 0.3)};
        break;
      }
      case Clutter::window: {
        const Region before{{-0.3, -0.6, 0.3}, {0.35, 0.6, 1.0}};
        const Region beyond{{0.60, -0.08, 0.42}, {0.75, 0.08, 0.58}};
        question = {in(before, ahead, 1.0).front(), in(beyond, ahead, 0.3)};
        break;
      }
      case Clutter::mixed:
        question = {anywhere(query, clearance, random), {anywhere(query, clearance, random)}};
        break;
    }
    questions.push_back(std::move(question));
  }
  return questions;
}

Cell in_other_shapes(const Cell& cell) {
  CellDescription out;
  out.arms = cell.arms();
  out.contacts = cell.contacts();
  out.fixtures = cell.fixtures();
  for (Body& body : out.fixtures)
    for (Part& part : body.parts) {
      if (const auto box = part.shape; std::holds_alternative<Box>(box)) {
        const Vector3 size = std::get<Box>(box).size;
        if (body.name == "floor") {
          part.at = part.at * Pose::at({0, 0, 0.5 * size.z()});
          part.shape = HalfSpace{};
        } else {
          part.shape = box_mesh(size, 2);
        }
      } else if (const auto* hull = std::get_if<Hull>(&box)) {
        part.shape = mesh_of_hull(*hull);
      } else if (const auto* one = std::get_if<Cylinder>(&box)) {
        part.shape = Cone{one->radius, one->radius, one->length};
      } else if (const auto* ball = std::get_if<Sphere>(&box)) {
        part.shape = cloud_of({Vector3::Zero()}, ball->radius);
      }
    }
  return Cell::build(out);
}

Cell measured_cell() {
  RandomStream random(8);
  const auto thing = [](const char* name, const Vector3& at, Shape shape) {
    return Body{.name = name, .at = Pose::at(at), .parts = {{.shape = std::move(shape)}}};
  };
  CellDescription out;
  out.arms = {clutter_arm()};
  out.fixtures = {
      thing("floor", {0, 0, 0}, HalfSpace{}),
      thing("boulder", {0.75, 0.1, 0.4}, bumpy_mesh(0.22, 20000)),
      thing("bucket", {-0.1, 0.7, 0.0}, bucket_mesh(0.2, 0.35, 0.02, 48)),
      thing("scanned", {-0.6, -0.4, 0.5}, random_cloud(random, {0.15, 0.25, 0.3}, 8000, 0.004)),
      thing("spike", {0.2, -0.7, 0.25}, Cone{0.15, 0.02, 0.5})};
  out.contacts = clutter_cell(Clutter::posts).contacts();
  return Cell::build(out);
}

}  // namespace er::test
