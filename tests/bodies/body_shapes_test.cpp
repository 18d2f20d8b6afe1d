// Bodies as shapes of less detail: that they hold all of the body, and how far they stand out.
#include "elbowroom/bodies/body_shapes.hpp"

#include <Eigen/Geometry>
#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/bodies/bulge.hpp"
#include "elbowroom/bodies/fitted_shape.hpp"
#include "elbowroom/bodies/hull_set.hpp"
#include "elbowroom/bodies/simplify.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/model/hull.hpp"
#include "support/meshes.hpp"

using namespace er;
using namespace er::test;
using Catch::Matchers::Contains;

namespace {

Surface surface_from(const Mesh& mesh, const Pose& pose = {}) {
  Surface out{.corners = mesh.data->corners, .faces = mesh.data->faces};
  for (Vector3& corner : out.corners) corner = pose * corner;
  return out;
}

MeshBody solid_body(const Mesh& mesh, const Pose& pose = {}) {
  return bodies_of({surface_from(mesh, pose)}).list.front();
}

Pose some_pose(RandomStream& random) {
  const Vector3 about(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1));
  return {rotation_about(about.normalized(), random.uniform(-3, 3)),
          Vector3(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1))};
}

// Points of a surface, and for solids points inside.
std::vector<Vector3> points_of(const Surface& surface, RandomStream& random, int count) {
  std::vector<Vector3> out;
  for (int i = 0; i < count; ++i) {
    const auto face = static_cast<std::size_t>(random.uniform(0, 0.999999) *
                                               static_cast<double>(surface.faces.size()));
    double u = random.uniform(0, 1);
    double v = random.uniform(0, 1);
    if (u + v > 1) {
      u = 1 - u;
      v = 1 - v;
    }
    const auto [a, b, c] = surface.triangle(face);
    out.push_back(a + u * (b - a) + v * (c - a));
  }
  return out;
}

std::vector<Vector3> points_inside(const MeshBody& body, RandomStream& random, int count) {
  const Mesh solid = mesh_of(body.surface.corners, body.surface.faces);
  std::vector<Vector3> out;
  while (static_cast<int>(out.size()) < count) {
    const Vector3 share(random.uniform(0, 1), random.uniform(0, 1), random.uniform(0, 1));
    const Vector3 point = body.box.low + share.cwiseProduct(body.size());
    if (encloses(*solid.data, point)) out.push_back(point);
  }
  return out;
}

double away(const Vector3& point, const Shape& shape, const Pose& at = {}) {
  return distance(Sphere{0.0}, Pose::at(point), shape, at).distance;
}

double away_from_all(const Vector3& point, const std::vector<Hull>& hulls) {
  double least = std::numeric_limits<double>::infinity();
  for (const Hull& hull : hulls) least = std::min(least, away(point, hull));
  return least;
}

// A bracket: two boxes at right angles, in one outline.
Mesh bracket_mesh() {
  const std::vector<Eigen::Vector2d> outline{{0, 0},       {0.2, 0},    {0.2, 0.02},
                                             {0.02, 0.02}, {0.02, 0.1}, {0, 0.1}};
  std::vector<Vector3> corners;
  for (const double z : {0.0, 0.05})
    for (const auto& p : outline) corners.emplace_back(p.x(), p.y(), z);
  std::vector<std::array<int, 3>> faces;
  for (int i = 0; i < 6; ++i) {
    const int next = (i + 1) % 6;
    faces.push_back({i, next, next + 6});
    faces.push_back({i, next + 6, i + 6});
  }
  const std::array<std::array<int, 3>, 4> flat{{{0, 1, 2}, {0, 2, 3}, {0, 3, 4}, {0, 4, 5}}};
  for (const auto& [a, b, c] : flat) {
    faces.push_back({a, c, b});
    faces.push_back({a + 6, b + 6, c + 6});
  }
  return mesh_of(std::move(corners), std::move(faces));
}

}  // namespace

TEST_CASE("a mesh may be thicker than its triangles") {
  RandomStream random(3);
  const Mesh thin = bumpy_mesh(0.2, 500);
  constexpr double kThickness = 0.013;
  const Mesh thick = mesh_of(thin.data->corners, thin.data->faces, false, {}, kThickness);
  const Mesh sheet = mesh_of(thin.data->corners, thin.data->faces, true, {}, kThickness);
  const Shape stick = Capsule{0.01, 0.15};
  for (int i = 0; i < 300; ++i) {
    Pose pose = some_pose(random);
    pose.position *= 0.6;
    const double gap = distance(stick, pose, thin, {}).distance;
    if (gap > kThickness + 1e-6) {
      CHECK(distance(stick, pose, thick, {}).distance == Approx(gap - kThickness).margin(1e-7));
      CHECK(distance(stick, pose, sheet, {}).distance == Approx(gap - kThickness).margin(1e-7));
      CHECK(further_apart_than(0.99 * (gap - kThickness), stick, pose, thick, {}));
      CHECK_FALSE(further_apart_than(1.01 * (gap - kThickness), stick, pose, thick, {}));
    } else if (gap < kThickness - 1e-6) {
      CHECK_FALSE(further_apart_than(0.0, stick, pose, thick, {}));
    }
  }
  CHECK(bounding_radius(thick) == Approx(bounding_radius(thin) + kThickness));
  CHECK((own_box(thick).half() - own_box(thin).half()).isApproxToConstant(kThickness));
  CHECK(volume(Shape(thick)) == Approx(volume(Shape(thin))));
  CHECK_THROWS_WITH(mesh_of(thin.data->corners, thin.data->faces, false, {}, -1.0),
                    Contains("thickness"));
}

TEST_CASE("a simplified mesh is no further off than it says, and holds what it stands for") {
  RandomStream random(4);
  const Mesh fine = bumpy_mesh(0.2, 20000);
  const Surface source = surface_from(fine);
  std::size_t last = source.faces.size();
  for (const double detail : {0.5e-3, 2e-3, 8e-3}) {
    const Simplified fewer = simplified(source, detail);
    CHECK(fewer.surface.faces.size() < last);
    last = fewer.surface.faces.size();
    CHECK(fewer.off > 0.0);
    CHECK(fewer.off <= detail);
    CHECK(edge_faults_of(fewer.surface).none());
    const Mesh skin = mesh_of(fewer.surface.corners, fewer.surface.faces, true);
    const Mesh stands_for = mesh_in_detail(source, false, {.file = "", .detail = detail});
    CHECK(stands_for.data->thickness == Approx(fewer.off).margin(1e-8));
    double most = 0.0;
    for (const Vector3& point : points_of(source, random, 3000)) {
      most = std::max(most, away(point, skin));
      CHECK(away(point, stands_for) <= 0.0);
    }
    CHECK(most <= fewer.off);
    CHECK(most > 0.5 * fewer.off);
    for (const Vector3& point : points_inside(solid_body(fine), random, 500))
      CHECK(away(point, stands_for) <= 0.0);
  }
  CHECK(last < source.faces.size() / 12);
}

TEST_CASE("a simplified skin holds the skin, and not only what it would enclose") {
  RandomStream random(14);
  const Surface source = surface_from(bumpy_mesh(0.2, 3000));
  const Mesh skin = mesh_in_detail(source, true, {.file = "", .detail = 0.02});
  REQUIRE(skin.data->faces.size() < source.faces.size());
  CHECK(skin.data->is_skin);
  for (const Vector3& point : points_of(source, random, 3000)) CHECK(away(point, skin) <= 0.0);
}

TEST_CASE("what cannot be simplified stays as it is") {
  const Surface box = surface_from(box_mesh({0.1, 0.2, 0.3}));
  CHECK(simplified(box, 1e-3).surface.faces.size() == 12);
  CHECK(simplified(box, 1e-3).off == 0.0);
  CHECK(simplified(box, 0.0).surface.faces.size() == 12);
  // Wanted coarser than the thing is large: it does not vanish.
  const Simplified coarse = simplified(surface_from(bumpy_mesh(0.02, 800)), 1.0);
  CHECK(coarse.surface.faces.size() >= 4);
  CHECK(edge_faults_of(coarse.surface).none());
  // Flat faces that are cut up lose their cuts, and are off by nothing.
  const Simplified whole = simplified(surface_from(box_mesh({0.1, 0.2, 0.3}, 6)), 1e-4);
  CHECK(whole.surface.faces.size() < 12 * 36);
  CHECK(whole.off <= 1.001e-5);
  // An open sheet keeps to its edges.
  Surface sheet = surface_from(box_mesh({0.1, 0.2, 0.3}, 6));
  sheet.faces.resize(sheet.faces.size() / 2);
  const Simplified open = simplified(sheet, 0.05);
  CHECK(open.surface.faces.size() < sheet.faces.size());
  const Mesh skin = mesh_of(open.surface.corners, open.surface.faces, true);
  RandomStream random(2);
  for (const Vector3& point : points_of(sheet, random, 500)) CHECK(away(point, skin) <= open.off);
}

TEST_CASE("a coarser hull holds the hull, and stands out no further than was asked") {
  RandomStream random(6);
  std::vector<Vector3> ball;
  for (int i = 0; i < 3000; ++i)
    ball.push_back(
        0.1 *
        Vector3(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1)).normalized());
  const Hull fine = hull_of(ball);
  std::size_t last = fine.data->corners.size();
  for (const double detail : {0.3e-3, 1e-3, 5e-3}) {
    const Hull fewer = coarser(fine, detail);
    CHECK(fewer.data->corners.size() < last);
    last = fewer.data->corners.size();
    for (const Vector3& point : ball) CHECK(away(point, fewer) <= 0.0);
    double most = 0.0;
    for (const Vector3& corner : fewer.data->corners) most = std::max(most, away(corner, fine));
    CHECK(most <= detail + 1e-6);
    CHECK(most > 0.1 * detail);
  }
  CHECK(last < 200);
  // The middle of the box about it is outside of this one.
  std::vector<Vector3> slope;
  for (const Vector3& corner :
       {Vector3(0, 0, 0), Vector3(1, 0, 0), Vector3(0, 1, 0), Vector3(0, 0, 1)})
    for (int i = 0; i < 200; ++i) slope.push_back(corner + 0.2 * ball[static_cast<std::size_t>(i)]);
  const Hull leaning = hull_of(slope);
  const Hull fewer = coarser(leaning, 2e-3);
  CHECK(fewer.data->corners.size() < leaning.data->corners.size());
  for (const Vector3& point : slope) CHECK(away(point, fewer) <= 0.0);
  for (const Vector3& corner : fewer.data->corners) CHECK(away(corner, leaning) <= 2e-3 + 1e-6);
  const Hull box = hull_of(box_mesh({0.1, 0.2, 0.3}).data->corners);
  CHECK(coarser(box, 1e-3).data == box.data);
}

TEST_CASE("hulls along a body hold all of it and do not stand out further than they say") {
  RandomStream random(7);
  const Mesh tube = turned_mesh({{0.03, 0.0}, {0.05, 0.0}, {0.05, 0.1}, {0.03, 0.1}}, 32);
  struct Shown {
    Mesh mesh;
    double within;
    int at_most;
  };
  const std::vector<Shown> all{{bracket_mesh(), 1e-3, 2},
                               {box_mesh({0.1, 0.2, 0.3}, 3), 1e-3, 1},
                               {tube, 4e-3, 10},
                               {bucket_mesh(0.15, 0.2, 0.01, 24), 12e-3, 40},
                               {bumpy_mesh(0.1, 300), 5e-3, 64}};
  for (const Shown& one : all) {
    const Pose pose = some_pose(random);
    const MeshBody body = solid_body(one.mesh, pose);
    const HullSet set = hulls_along(body, {.within = one.within});
    INFO(body.surface.faces.size()
         << " triangles, " << set.hulls.size() << " hulls, out " << set.bulge.most);
    CHECK(static_cast<int>(set.hulls.size()) <= one.at_most);
    CHECK(set.is_within(one.within));
    for (const Vector3& point : points_of(body.surface, random, 1000))
      CHECK(away_from_all(point, set.hulls) <= 1e-9);
    for (const Vector3& point : points_inside(body, random, 1000))
      CHECK(away_from_all(point, set.hulls) <= 1e-9);
    const Mesh solid = mesh_of(body.surface.corners, body.surface.faces);
    double all_of_them = 0.0;
    for (const Hull& hull : set.hulls) {
      all_of_them += volume(Shape(hull));
      const Surface skin{.corners = hull.data->corners, .faces = hull.data->faces};
      for (const Vector3& point : points_of(skin, random, 200))
        CHECK(away(point, solid) <= set.bulge.most + 1e-9);
    }
    CHECK(all_of_them >= body.volume * (1.0 - 1e-9));
    CHECK(set.bulge.volume == Approx(all_of_them - body.volume).margin(1e-12));
  }
}

TEST_CASE("hulls along a body with a hollow fill the hollow, and a sheet has none") {
  Surface shell = surface_from(box_mesh({0.2, 0.2, 0.2}));
  Surface hollow = surface_from(box_mesh({0.1, 0.1, 0.1}));
  for (auto& face : hollow.faces) std::swap(face[1], face[2]);
  append(shell, hollow);
  const MeshBody body = bodies_of({shell}).list.front();
  REQUIRE(body.hollows == 1);
  const HullSet filled = hulls_along(body, {.within = 1e-3});
  CHECK(filled.hulls.size() == 1);
  CHECK(filled.bulge.volume == Approx(0.0).margin(1e-9));

  Surface corner = surface_from(bracket_mesh());
  corner.faces.resize(4);  // two of its sides: open
  const MeshBody sheet = bodies_of({corner}).list.front();
  REQUIRE(sheet.health.edges.open > 0);
  CHECK_THROWS_WITH(hulls_along(sheet), Contains("no inside"));
  const ShapedBody hull = shapes_of(sheet, {.as = BodyShape::simplest, .within = 1e-4}, {});
  CHECK(hull.parts.size() == 1);  // and nothing that follows it

  CHECK_THROWS_AS(hulls_along(body, {.within = 0.0}), InputError);
  CHECK_THROWS_AS(hulls_along(body, {.most = 0}), InputError);
  Surface flat;
  flat.corners = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}};
  flat.faces = {{0, 1, 2}};
  CHECK_THROWS_WITH(hulls_along(bodies_of({flat}).list.front()), Contains("no inside"));
}

TEST_CASE("too few hulls are said to stand out further") {
  const MeshBody bucket = solid_body(bucket_mesh(0.15, 0.2, 0.01, 24));
  const HullSet few = hulls_along(bucket, {.within = 2e-3, .most = 6});
  CHECK(few.hulls.size() <= 6);
  CHECK_FALSE(few.is_within(2e-3));
  RandomStream random(9);
  for (const Vector3& point : points_inside(bucket, random, 500))
    CHECK(away_from_all(point, few.hulls) <= 1e-9);
}

TEST_CASE("the shape that was meant is fitted about a mesh of it, however it lies") {
  RandomStream random(11);
  const auto turned = [&](const std::vector<Eigen::Vector2d>& outline) {
    return solid_body(turned_mesh(outline, 64), some_pose(random));
  };
  std::vector<Eigen::Vector2d> pill{{0.0, -0.08}};
  std::vector<Eigen::Vector2d> ball{{0.0, -0.05}};
  for (int i = 1; i < 32; ++i) {
    const double angle = 3.14159265358979 * (i / 32.0 - 0.5);
    const Eigen::Vector2d at(0.05 * std::cos(angle), 0.05 * std::sin(angle));
    ball.push_back(at);
    if (i <= 16) pill.emplace_back(at.x(), at.y() - 0.03);
    if (i >= 16) pill.emplace_back(at.x(), at.y() + 0.03);
  }
  ball.emplace_back(0.0, 0.05);
  pill.emplace_back(0.0, 0.08);
  constexpr double kWithin = 1e-3;
  for (int round = 0; round < 5; ++round) {
    const auto box =
        fitted_about(solid_body(box_mesh({0.1, 0.2, 0.3}, 2), some_pose(random)), kWithin);
    REQUIRE(box);
    CHECK(std::holds_alternative<Box>(box->part.shape));
    CHECK(volume(box->part.shape) == Approx(0.006).epsilon(1e-6));
    CHECK(box->bulge.most <= 0.06e-3);

    const MeshBody rod = turned({{0.0, 0.0}, {0.03, 0.0}, {0.03, 0.2}, {0.0, 0.2}});
    const auto cylinder = fitted_about(rod, kWithin);
    REQUIRE(cylinder);
    REQUIRE(std::holds_alternative<Cylinder>(cylinder->part.shape));
    CHECK(std::get<Cylinder>(cylinder->part.shape).radius == Approx(0.03).epsilon(1e-6));
    CHECK(std::get<Cylinder>(cylinder->part.shape).length == Approx(0.2).epsilon(1e-6));

    const auto capsule = fitted_about(turned(pill), kWithin);
    REQUIRE(capsule);
    CHECK(std::holds_alternative<Capsule>(capsule->part.shape));
    const auto sphere = fitted_about(turned(ball), kWithin);
    REQUIRE(sphere);
    CHECK(std::holds_alternative<Sphere>(sphere->part.shape));

    for (const Vector3& corner : rod.surface.corners)
      CHECK(away(corner, cylinder->part.shape, cylinder->part.at) <= 0.0);
  }
  CHECK_FALSE(fitted_about(solid_body(bucket_mesh(0.15, 0.2, 0.01, 24)), kWithin));
  CHECK_FALSE(fitted_about(solid_body(bracket_mesh()), kWithin));
}

TEST_CASE("the simplest shape that does is taken, and says how far it stands out") {
  const ShapeChoice simplest{.as = BodyShape::simplest, .within = 3e-3};
  const auto first = [&](const Mesh& mesh, const ShapeChoice& choice) {
    return shapes_of(solid_body(mesh), choice, {.file = "one.stl"});
  };
  CHECK(std::holds_alternative<Box>(first(box_mesh({0.1, 0.2, 0.3}), simplest).parts[0].shape));
  // A wedge: no box or round shape does.
  const Mesh wedge = mesh_of_hull(hull_of(std::vector<Vector3>{
      {0, 0, 0}, {0.1, 0, 0}, {0, 0.1, 0}, {0, 0, 0.1}, {0.1, 0, 0.1}, {0, 0.1, 0.1}}));
  const ShapedBody hull = first(wedge, simplest);
  REQUIRE(hull.parts.size() == 1);
  REQUIRE(std::holds_alternative<Hull>(hull.parts[0].shape));
  CHECK(origin_of(hull.parts[0].shape)->bodies == std::vector<int>{1});
  const ShapedBody bracket = first(bracket_mesh(), simplest);
  CHECK(bracket.parts.size() == 2);
  CHECK(bracket.out <= 3e-3);

  ShapeChoice shown = simplest;
  shown.looks_as_mesh = true;
  shown.looks_detail = 1e-3;
  const ShapedBody both = first(bracket_mesh(), shown);
  REQUIRE(both.parts.size() == 3);
  CHECK_FALSE(both.parts[0].looks);
  CHECK(both.parts[0].collides);
  CHECK(both.parts[2].looks);
  CHECK_FALSE(both.parts[2].collides);
  CHECK(origin_of(both.parts[2].shape)->detail == 1e-3);

  // What is beside the bracket reaches out of it by as much as its corners say.
  const MeshBody beside = solid_body(box_mesh({0.01, 0.01, 0.01}), Pose::at({-0.02, 0.05, 0.025}));
  CHECK(reach_beyond(beside, bracket.parts) == Approx(0.025).margin(3e-3));
  CHECK(std::isinf(reach_beyond(beside, {})));
}
