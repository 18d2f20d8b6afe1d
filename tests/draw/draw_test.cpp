#include <unistd.h>

#include <Eigen/Geometry>
#include <catch2/catch.hpp>
#include <chrono>
#include <filesystem>
#include <fstream>
#include <sstream>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/draw/bodies_picture.hpp"
#include "elbowroom/draw/ghosts.hpp"
#include "elbowroom/draw/plot.hpp"
#include "elbowroom/draw/render.hpp"
#include "elbowroom/draw/route_picture.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "elbowroom/pace/pace.hpp"
#include "support/cells.hpp"
#include "support/demo.hpp"

using namespace er;
namespace fs = std::filesystem;

namespace {

fs::path scratch(const std::string& name) {
  return fs::temp_directory_path() / ("elbowroom_draw_" + std::to_string(::getpid()) + "_" + name);
}

std::string content(const fs::path& path) {
  std::ifstream in(path, std::ios::binary);
  std::ostringstream text;
  text << in.rdbuf();
  return text.str();
}

std::array<int, 3> pixel(const Image& image, int x, int y) {
  const auto at = static_cast<std::size_t>(3 * (y * image.width + x));
  return {image.rgb[at], image.rgb[at + 1], image.rgb[at + 2]};
}

const AxisFit& fit_of_joint(const MeshInspection& found, const std::string& joint) {
  for (const AxisFit& fit : found.axes)
    if (fit.joint == joint) return fit;
  throw std::logic_error("no such joint");
}

}  // namespace

TEST_CASE("tessellated shapes lie on the shape and face outwards") {
  const Pose pose{rotation_from_rpy(0.3, -0.8, 1.2), {0.1, 0.2, 0.3}};
  for (const Shape& shape : {Shape(Box{{0.2, 0.3, 0.4}}), Shape(Sphere{0.2}),
                             Shape(Cylinder{0.1, 0.4}), Shape(Capsule{0.1, 0.3})}) {
    const SceneMesh mesh = tessellate(shape, pose, {});
    double enclosed = 0.0;  // by the divergence theorem; the winding must be the same all round
    double unsigned_volume = 0.0;
    for (const auto& t : mesh.triangles) {
      const Vector3 a = pose.inverse() * mesh.vertices[t[0]].cast<double>();
      const Vector3 b = pose.inverse() * mesh.vertices[t[1]].cast<double>();
      const Vector3 c = pose.inverse() * mesh.vertices[t[2]].cast<double>();
      const Vector3 normal = pose.rotation.transpose() * mesh.normals[t[0]].cast<double>();
      enclosed += a.dot(b.cross(c)) / 6.0;
      unsigned_volume += std::abs(a.dot(b.cross(c))) / 6.0;
      CHECK(normal.dot(a) > 0.0);  // convex and centred: outwards is away from the middle
    }
    CHECK(unsigned_volume == Approx(volume(shape)).epsilon(0.01));
    CHECK(mesh.vertices.size() == mesh.normals.size());
    CHECK(std::abs(enclosed) <= unsigned_volume + 1e-6);
  }
}

TEST_CASE("a picture shows the arm in the middle and the background at the rim") {
  Body ball{.name = "ball",
            .at = Pose::at({0, 0, 0.5}),
            .parts = {{.shape = Sphere{0.4}, .colour = {0.9, 0.1, 0.1}}}};
  const Cell cell = Cell::build({.fixtures = {ball}});
  const Scene scene(cell, {});
  const Image image = render(scene, {}, {.width = 160, .height = 100});
  const auto middle = pixel(image, 80, 50), rim = pixel(image, 2, 2);
  CHECK(middle[0] > 2 * middle[1]);  // red
  CHECK(rim[0] > 200);
  CHECK(std::abs(rim[0] - rim[2]) < 20);
  // It fits: no red touches the border.
  for (int x = 0; x < 160; ++x)
    for (const int y : {0, 99}) CHECK(pixel(image, x, y)[0] < 2 * pixel(image, x, y)[1]);
  // A shadow lies on the ground: some of it is darker than the rest.
  int dark = 0;
  for (int x = 0; x < 160; ++x) dark += pixel(image, x, 92)[0] < 170 ? 1 : 0;
  CHECK(dark > 5);
}

TEST_CASE("a picture is the same every time, and the view looks at the subject") {
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  Scene scene(cell, {cell.stance("before_kiln")});
  const View view = best_view(scene);
  const RenderOptions options{.width = 160, .height = 100};
  CHECK(render(scene, view, options).rgb == render(scene, view, options).rgb);
  // From the side chosen, more of the arm's orange is seen than from behind the kiln.
  const auto orange = [&](double azimuth) {
    const Image image = render(scene, {.azimuth = azimuth}, options);
    int count = 0;
    for (int y = 0; y < 100; ++y)
      for (int x = 0; x < 160; ++x) {
        const auto p = pixel(image, x, y);
        count += p[0] > 2 * p[2] && p[0] > 90 ? 1 : 0;
      }
    return count;
  };
  CHECK(orange(view.azimuth) > orange(-1.2));
  CHECK_THROWS_AS(Scene(cell, {}), InputError);
}

TEST_CASE("a PNG file holds the picture's size") {
  const Image image{3, 2, std::vector<std::uint8_t>(18, 200)};
  const fs::path path = scratch("a.png");
  write_png(path, image);
  const std::string png = content(path);
  fs::remove(path);
  REQUIRE(png.size() > 24);
  CHECK(png.substr(1, 3) == "PNG");
  CHECK(png[19] == 3);
  CHECK(png[23] == 2);
  CHECK_THROWS_AS(write_png("/nowhere/a.png", image), InputError);
}

TEST_CASE("a plot has its panels, units, joints and limits") {
  const Arm arm = test::planar_arm();
  const auto paced = pace({test::values({0, 0}), test::values({1, 2})}, arm);
  const fs::path path = scratch("p.svg");
  plot_motion(path, paced->motion, arm, {.title = "a_title with \"quotes\""});
  const std::string svg = content(path);
  fs::remove(path);
  for (const char* text :
       {"position (deg)", "velocity (deg/s)", "acceleration (deg/s²)", "jerk (deg/s³)", "time (s)",
        "base_to_upper", "upper_to_fore", "a_title with",
        "use of velocity or acceleration limit (%)", "speed of the tool (mm/s)",
        "from above: x, y (mm)", "from the side: x, z (mm)"})
    CHECK_THAT(svg, Catch::Contains(text));
  CHECK_THROWS_WITH(plot_motion(scratch("p.gif"), paced->motion, arm),
                    Catch::Contains("a plot is a .png or .svg file, found '.gif'"));
}

TEST_CASE("ghosts are seen through, never in front of the solid arm, and red when refused") {
  const Cell cell = Cell::build({.arms = {test::planar_arm()}});
  const Arm& arm = cell.arms().front();
  const RenderOptions options{.width = 320, .height = 200};
  const Posture solid = test::values({0.0, 0.0});
  const Ghost other{.posture = test::values({1.2, 0.4})};
  Ghost refused = other;
  refused.warning = true;
  const Image with = render_with_ghosts(cell, arm, solid, {other}, {}, options);
  const Image red = render_with_ghosts(cell, arm, solid, {refused}, {}, options);
  const Image twice = render_with_ghosts(cell, arm, solid, {other, other}, {}, options);
  int fainter = 0, redder = 0, same = 0;
  for (int x = 0; x < 320; ++x)
    for (int y = 0; y < 200; ++y) {
      const auto a = pixel(with, x, y), b = pixel(red, x, y), c = pixel(twice, x, y);
      if (a == b && a == c) {
        ++same;
        continue;
      }
      // What the ghost covers: deeper when it stands there twice, towards red when refused.
      fainter += c[0] <= a[0] && c[1] <= a[1] ? 1 : 0;
      redder += b[0] - b[1] > a[0] - a[1] + 5 ? 1 : 0;
    }
  CHECK(fainter > 100);
  CHECK(redder > 100);
  CHECK(same > 320 * 200 / 2);
}

TEST_CASE("a route is drawn with ghosts, the tool's path and its tightest place") {
  const Cell cell = Cell::build({.arms = {test::planar_arm()}});
  const CellQuery query(cell, "flat");
  const Posture start = test::values({0.0, 0.0});
  const Posture end = test::values({1.2, 0.4});
  const auto route = find_route(query, start, {end}, {.clearance = 0.0});
  REQUIRE(route);
  const RenderOptions options{.width = 320, .height = 200};
  const Image drawn = render_route(query, *route, options);
  const Image alone = render_with_ghosts(cell, cell.arms().front(), end, {}, {}, options);
  int blue = 0;
  int changed = 0;
  for (int x = 0; x < 320; ++x)
    for (int y = 0; y < 200; ++y) {
      const auto a = pixel(drawn, x, y);
      changed += a == pixel(alone, x, y) ? 0 : 1;
      blue += a[2] > a[0] + 60 ? 1 : 0;  // the path
    }
  CHECK(changed > 1000);
  CHECK(blue > 20);

  // Other paths between the same ends are there, too, lighter.
  const std::vector<Posture> round{start, test::values({0.2, 1.5}), end};
  const Image one = render_paths(query, route->waypoints, {}, options);
  const Image both = render_paths(query, route->waypoints, {round}, options);
  int other = 0;
  for (int x = 0; x < 320; ++x)
    for (int y = 0; y < 200; ++y) other += pixel(one, x, y) == pixel(both, x, y) ? 0 : 1;
  CHECK(other > 20);
}

TEST_CASE("where a dimension is in doubt, both arms are seen through the bodies of a mesh") {
  // The demo arm with its elbow's offset the other way.
  ArmDescription turned_over = test::demo_cell().arm("teasel").description();
  for (Link& link : turned_over.links)
    if (link.name == "forearm") link.joint.origin.position.z() *= -1.0;
  const auto surfaces = read_mesh_file(DEMO_DIR "/teasel.stl", Vector3::Constant(1e-3));
  MeshInspection found = inspect_mesh(bodies_of(surfaces), {.arm = Arm::build(turned_over)});
  REQUIRE(fit_of_joint(found, "forearm_turn").doubt);
  CHECK(fit_of_joint(found, "forearm_turn").doubt->opposite);
  const RenderOptions options{.width = 320, .height = 200};
  const Image with = render_bodies(found, 0.0, options);
  for (AxisFit& fit : found.axes) fit.doubt.reset();
  const Image without = render_bodies(found, 0.0, options);
  int redder = 0;  // as it is described
  int darker = 0;  // as it would be
  for (int x = 0; x < 320; ++x)
    for (int y = 0; y < 200; ++y) {
      const auto a = pixel(with, x, y), b = pixel(without, x, y);
      const int red = (a[0] - a[1]) - (b[0] - b[1]);
      redder += red > 8 ? 1 : 0;
      darker += red < 4 && a[0] + 15 < b[0] && a[1] + 15 < b[1] ? 1 : 0;
    }
  CHECK(redder > 300);
  CHECK(darker > 100);
}
