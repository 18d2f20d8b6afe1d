// Surfaces mended and taken apart.
#include "elbowroom/bodies/split.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/model/hull.hpp"
#include "support/meshes.hpp"

using namespace er;
using namespace er::test;
using Catch::Matchers::Contains;
using Catch::Matchers::Equals;

namespace {

// A box as twelve triangles that share no corner number, as files have them.
Surface loose_box(const Vector3& size, const Vector3& at, bool inwards = false) {
  const Mesh box = box_mesh(size);
  Surface out;
  for (std::size_t i = 0; i < box.data->faces.size(); ++i) {
    auto [a, b, c] = box.data->triangle(static_cast<int>(i));
    if (inwards) std::swap(b, c);
    const int first = static_cast<int>(out.corners.size());
    out.corners.insert(out.corners.end(), {a + at, b + at, c + at});
    out.faces.push_back({first, first + 1, first + 2});
  }
  return out;
}

Surface loose(const std::vector<Surface>& parts) {
  Surface out;
  for (const Surface& part : parts) append(out, part);
  return out;
}

const Vector3 kCube = Vector3::Constant(0.1);

}  // namespace

TEST_CASE("a file of one piece comes apart into its bodies, the largest first") {
  const Bodies bodies =
      bodies_of({loose({loose_box(kCube, {0, 0, 0}), loose_box(kCube * 2, {1, 0, 0}),
                        loose_box(kCube * 0.5, {0, 1, 0})})});
  REQUIRE(bodies.list.size() == 3);
  CHECK(bodies.mended.empty());
  const double sides[] = {0.2, 0.1, 0.05};
  for (std::size_t i = 0; i < 3; ++i) {
    const MeshBody& body = bodies.list[i];
    CHECK(body.number == static_cast<int>(i) + 1);
    CHECK(body.health.is_closed());
    CHECK(body.surface.corners.size() == 8);
    CHECK(body.volume == Approx(std::pow(sides[i], 3)));
    CHECK(body.health.area == Approx(6 * sides[i] * sides[i]));
    CHECK((body.size() - Vector3::Constant(sides[i])).norm() < 1e-12);
    CHECK_FALSE(body.turned);
    CHECK(body.inside_of == 0);
  }
  CHECK((bodies.high - Vector3(1.1, 1.025, 0.1)).norm() < 1e-12);
  CHECK(bodies.together({1, 3}).faces.size() == 24);
  CHECK_THROWS_WITH(bodies.numbered(4), Contains("there is no body 4"));
  CHECK_THROWS_WITH(bodies.numbered(0), Contains("there is no body 0"));
}

TEST_CASE("bodies that touch at a corner, an edge or a face are two") {
  for (const Vector3& at :
       {Vector3(0.1, 0.1, 0.1), Vector3(0.1, 0.1, 0.0), Vector3(0.1, 0.0, 0.0)}) {
    INFO(at.transpose());
    const Bodies bodies = bodies_of({loose({loose_box(kCube, {0, 0, 0}), loose_box(kCube, at)})});
    REQUIRE(bodies.list.size() == 2);
    for (const MeshBody& body : bodies.list) {
      CHECK(body.health.is_closed());
      CHECK(body.volume == Approx(1e-3));
    }
  }
  // Four boxes about one edge, each of them whole.
  std::vector<Surface> parts;
  for (const double x : {-0.05, 0.05})
    for (const double y : {-0.05, 0.05}) parts.push_back(loose_box(kCube, {x, y, 0}));
  CHECK(bodies_of({loose(parts)}).list.size() == 4);
}

TEST_CASE("what faces inwards is a hollow where something holds it, and else is turned over") {
  const Surface shell = loose_box(kCube * 4, {0, 0, 0});
  const Surface hollow = loose_box(kCube * 3, {0, 0, 0}, true);
  const Surface motor = loose_box(kCube, {0, 0, 0.05});
  for (const bool all_inwards : {false, true}) {
    INFO(all_inwards);
    Surface file = loose({shell, hollow, motor});
    if (all_inwards)
      for (auto& face : file.faces) std::swap(face[0], face[1]);
    const Bodies bodies = bodies_of({file});
    REQUIRE(bodies.list.size() == 2);
    const MeshBody& housing = bodies.list[0];
    CHECK(housing.hollows == 1);
    CHECK(housing.volume == Approx(0.064 - 0.027));
    CHECK(housing.health.volume == Approx(0.064 - 0.027));  // by its triangles, too
    CHECK(housing.turned == all_inwards);
    CHECK(bodies.list[1].inside_of == 1);
    CHECK(bodies.list[1].volume == Approx(1e-3));
    CHECK(bodies.list[1].health.volume > 0.0);
  }
  // In a hollow nothing can be a hollow: a motor that faces inwards there is turned over.
  const Bodies turned = bodies_of({loose({shell, hollow, loose_box(kCube, {0, 0, 0.05}, true)})});
  REQUIRE(turned.list.size() == 2);
  CHECK(turned.list[1].turned);
  CHECK(turned.list[1].health.volume == Approx(1e-3));
  const Bodies single = bodies_of({loose_box(kCube, {0, 0, 0}, true)});
  CHECK(single.list.front().turned);
  CHECK(single.list.front().health.volume == Approx(1e-3));
}

TEST_CASE("what sticks out of another, or touches it, is not inside of it") {
  // A bucket whose floor is thick; a bar that stands in the floor and rises in the hollow, and one
  // that is wholly within the floor; one that lies against the floor's underside from within.
  const Mesh bucket =
      turned_mesh({{0.0, 0.0}, {0.2, 0.0}, {0.2, 0.3}, {0.15, 0.3}, {0.15, 0.1}, {0.0, 0.1}}, 48);
  const Surface outer{.corners = bucket.data->corners, .faces = bucket.data->faces};
  const auto inside_of = [&](const Vector3& size, const Vector3& at) {
    const Bodies bodies = bodies_of({loose({outer, loose_box(size, at)})});
    REQUIRE(bodies.list.size() == 2);
    return bodies.list[1].inside_of;
  };
  CHECK(inside_of({0.05, 0.05, 0.05}, {0, 0, 0.05}) == 1);
  CHECK(inside_of({0.05, 0.05, 0.1}, {0, 0, 0.07}) == 0);    // most of it is inside
  CHECK(inside_of({0.05, 0.05, 0.05}, {0, 0, 0.2}) == 0);    // in the hollow: things may reach it
  CHECK(inside_of({0.05, 0.05, 0.05}, {0, 0, 0.025}) == 0);  // flush with the underside
}

TEST_CASE("what can be mended without guessing is, and is said") {
  const Surface box = loose_box(kCube, {0, 0, 0});
  SECTION("triangles twice, and of two corners") {
    Surface broken = box;
    broken.faces.push_back(broken.faces[3]);
    broken.faces.push_back({broken.faces[4][1], broken.faces[4][2], broken.faces[4][0]});
    broken.faces.push_back({0, 0, 1});
    const Mended mended = mend(broken);
    CHECK(mended.done ==
          std::vector<std::string>{"1 triangle dropped that had less than three different corners",
                                   "2 triangles dropped that were there twice"});
    CHECK(health_of(mended.surface).text(mended.surface) == "closed");
  }
  SECTION("triangles that face the other way") {
    Surface broken = box;
    for (const std::size_t i : {2U, 5U, 11U}) std::swap(broken.faces[i][0], broken.faces[i][1]);
    Surface joined = broken;
    join_corners(joined);
    CHECK(health_of(joined).edges.turned > 0);
    CHECK_THAT(health_of(joined).text(joined), Contains("facing both ways: at "));
    const Mended mended = mend(broken);
    CHECK(mended.done == std::vector<std::string>{"3 triangles turned to agree with the others"});
    CHECK(health_of(mended.surface).volume == Approx(1e-3));
  }
  SECTION("corners a little apart") {
    Surface broken = box;
    RandomStream random(3);
    for (Vector3& corner : broken.corners)
      for (double& value : corner) value += random.uniform(-2e-8, 2e-8);
    const Mended mended = mend(broken);
    REQUIRE(mended.done.size() == 1);
    CHECK_THAT(mended.done.front(), Contains("corners of open edges joined with one within"));
    CHECK(health_of(mended.surface).is_closed());
    CHECK(mended.surface.corners.size() == 8);
  }
  SECTION("a missing triangle, and a missing square") {
    for (const std::size_t missing : {1U, 2U}) {
      Surface broken = box;
      broken.faces.resize(broken.faces.size() - missing);
      const Mended mended = mend(broken);
      REQUIRE(mended.done.size() == 1);
      CHECK_THAT(mended.done.front(), Contains("1 hole"));
      CHECK(health_of(mended.surface).volume == Approx(1e-3));
    }
  }
}

TEST_CASE("what cannot be mended is named with its place") {
  // A tube without ends: two rings of open edges, which nobody knows to be holes.
  const Mesh tube = turned_mesh({{0.1, 0.0}, {0.2, 0.0}, {0.2, 0.5}, {0.1, 0.5}}, 24);
  Surface open{.corners = tube.data->corners, .faces = tube.data->faces};
  std::erase_if(open.faces, [&](const auto& face) {
    double height = 0.0;
    for (const int corner : face) height += open.corner(corner).z();
    return height < 1e-9;  // the ring at its lower end
  });
  const Bodies bodies = bodies_of({open});
  REQUIRE(bodies.list.size() == 1);
  CHECK(bodies.list.front().health.edges.open == 48);
  CHECK(bodies.list.front().volume == 0.0);
  CHECK_THAT(bodies.list.front().health.text(bodies.list.front().surface),
             Contains("open: 48 edges without a neighbour, such as the one from ["));
  // A surface with one side has no out.
  Surface band;
  constexpr int kSteps = 24;
  for (int i = 0; i < kSteps; ++i) {
    const double turn = 2.0 * 3.14159265358979 * i / kSteps;
    const Vector3 outward(std::cos(turn), std::sin(turn), 0.0);
    const Vector3 across = std::cos(0.5 * turn) * outward + std::sin(0.5 * turn) * Vector3::UnitZ();
    band.corners.push_back(outward + 0.3 * across);
    band.corners.push_back(outward - 0.3 * across);
  }
  for (int i = 0; i < kSteps; ++i) {
    const int a = 2 * i;
    const int b = 2 * i + 1;
    const int c = i + 1 < kSteps ? a + 2 : 1;  // crossed over at the end
    const int d = i + 1 < kSteps ? b + 2 : 0;
    band.faces.push_back({a, b, c});
    band.faces.push_back({b, d, c});
  }
  const Mended mended = mend(band);
  CHECK(health_of(mended.surface).edges.turned > 0);
  CHECK(health_of(mended.surface).edges.open == 2 * kSteps);

  Surface nothing{.corners = {{0, 0, 0}, {1, 0, 0}}, .faces = {{0, 1, 0}, {1, 1, 0}}};
  CHECK_THROWS_WITH(mend(nothing),
                    Contains("no triangle of this mesh has three different corners"));
  nothing.corners[0].x() = std::numeric_limits<double>::quiet_NaN();
  CHECK_THROWS_WITH(mend(nothing), Contains("corner 1 of a mesh is not finite"));
  CHECK_THROWS_AS(bodies_of({}), InputError);
}

TEST_CASE("surfaces that are closed together alone are one body, and names go along") {
  Surface lower = loose_box(kCube, {0, 0, 0});
  Surface upper = lower;
  lower.name = "grey";
  upper.name = "blue";
  lower.faces.resize(5);
  upper.faces.erase(upper.faces.begin(), upper.faces.begin() + 5);
  Surface other = loose_box(kCube, {1, 0, 0});
  other.name = "screw";
  const Bodies bodies = bodies_of({lower, upper, other});
  REQUIRE(bodies.list.size() == 2);
  for (const MeshBody& body : bodies.list) CHECK(body.health.is_closed());
  CHECK(bodies.list[0].surface.name == "screw");
  CHECK(bodies.list[1].surface.name == "grey");
}

TEST_CASE("random bodies, some within others, come out as they went in") {
  RandomStream random(29);
  for (int round = 0; round < 20; ++round) {
    Surface file;
    double volume = 0.0;
    const int count = 1 + static_cast<int>(random.uniform(0.0, 12.0));
    int hollows = 0;
    for (int i = 0; i < count; ++i) {
      std::vector<Vector3> points;
      for (int k = 0; k < 30; ++k)
        points.push_back(
            Vector3(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1)));
      const Hull hull = hull_of(points);
      Surface one{.corners = hull.data->corners, .faces = hull.data->faces};
      double size = random.uniform(0.5, 1.5);
      const bool hollow = random.uniform(0.0, 1.0) < 0.5;
      hollows += hollow ? 1 : 0;
      for (const double scale : {1.0, 0.3}) {
        if (scale < 1.0 && !hollow) break;
        Surface layer = one;
        for (Vector3& corner : layer.corners)
          corner = Vector3(4.0 * i, 0, 0) + scale * size * corner;
        if (scale < 1.0)
          for (auto& face : layer.faces) std::swap(face[1], face[2]);
        volume += enclosed_volume(layer.corners, layer.faces);
        append(file, layer);
      }
    }
    const Bodies bodies = bodies_of({file});
    CHECK(static_cast<int>(bodies.list.size()) == count);
    double sum = 0.0;
    int found = 0;
    for (const MeshBody& body : bodies.list) {
      sum += body.volume;
      found += body.hollows;
      CHECK(body.volume == Approx(body.health.volume));
    }
    CHECK(sum == Approx(volume));
    CHECK(found == hollows);
  }
}
