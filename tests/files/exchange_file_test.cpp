// CAD exchange files, where this build reads them; else that they are refused with what to do.
#include "elbowroom/files/exchange_file.hpp"

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <fstream>
#include <numbers>
#include <sstream>

#include "elbowroom/bodies/body_shapes.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "support/demo.hpp"
#include "support/folder.hpp"

namespace er {
namespace {

using Catch::Matchers::Contains;

std::string text_of_demo(const std::string& name) {
  std::ifstream in(DEMO_DIR "/" + name);
  std::ostringstream out;
  out << in.rdbuf();
  return out.str();
}

std::string replaced(std::string text, const std::string& from, const std::string& to) {
  const std::size_t at = text.find(from);
  REQUIRE(at != text.npos);
  return text.replace(at, from.size(), to);
}

// A box of ruled surfaces (118) between lines (110), each for itself, as IGES 5.3 has it: lines of
// 72 columns, a letter for the section and a number.
std::string iges_box(const Vector3& size) {
  std::string parameters;
  std::string directory;
  int entries = 0;
  const auto add = [&](int kind, const std::string& values) {
    ++entries;
    parameters += fmt::format("{:<64}{:8}P{:7}\n", fmt::format("{},{};", kind, values),
                              2 * entries - 1, entries);
    directory += fmt::format("{:8}{:8}{:8}{:8}{:8}{:8}{:8}{:8}{:8}D{:7}\n", kind, entries, 0, 0, 0,
                             0, 0, 0, "00000000", 2 * entries - 1);
    directory += fmt::format("{:8}{:8}{:8}{:8}{:8}{:8}{:8}{:8}{:8}D{:7}\n", kind, 0, 0, 1, 0, "",
                             "", "", 0, 2 * entries);
    return 2 * entries - 1;
  };
  const auto line = [&](const Vector3& a, const Vector3& b) {
    return add(110, fmt::format("{:.3f},{:.3f},{:.3f},{:.3f},{:.3f},{:.3f}", a.x(), a.y(), a.z(),
                                b.x(), b.y(), b.z()));
  };
  for (int k = 0; k < 3; ++k)
    for (const double side : {0.0, 1.0}) {
      const Vector3 u = size[(k + 1) % 3] * Vector3::Unit((k + 1) % 3);
      const Vector3 v = size[(k + 2) % 3] * Vector3::Unit((k + 2) % 3);
      const Vector3 corner = side * size[k] * Vector3::Unit(k);
      const int first = line(corner, corner + u);
      const int second = line(corner + v, corner + u + v);
      add(118, fmt::format("{},{},0,0", first, second));
    }
  std::string out = fmt::format("{:<72}S{:7}\n", "a box", 1);
  const std::string global =
      "1H,,1H;,3Hbox,3Hbox,1H ,1H ,32,38,6,308,15,3Hbox,1.,2,2HMM,1,1.,";  // millimetres
  out += fmt::format("{:<72}G{:7}\n", global, 1);
  out += fmt::format("{:<72}G{:7}\n", "15H20261129.000000,1.E-6,1000.,1H ,1H ,11,0;", 2);
  out += directory + parameters;
  out += fmt::format("{:<72}T{:7}\n",
                     fmt::format("S{:7}G{:7}D{:7}P{:7}", 1, 2, 2 * entries, entries), 1);
  return out;
}

// The volume of what is turned, from its outline of radius and height.
double turned_volume(const std::vector<std::pair<double, double>>& outline) {
  double out = 0.0;
  for (std::size_t i = 0; i < outline.size(); ++i) {
    const auto [r, h] = outline[i];
    const auto [s, k] = outline[(i + 1) % outline.size()];
    out += std::numbers::pi * (k - h) * r * s;  // along the axis, or square to it
  }
  return 1e-9 * out;
}

const MeshBody& named(const Bodies& bodies, const std::string& name) {
  for (const MeshBody& body : bodies.list)
    if (body.surface.name == name) return body;
  FAIL("no body is named " << name);
  return bodies.list.front();
}

}  // namespace

TEST_CASE("a build without them says how exchange files can be read") {
  if (reads_exchange_files()) return;
  for (const char* name : {"part.step", "part.STP", "part.igs", "part.IGES"}) {
    try {
      read_mesh_file(name);
      FAIL("it was read");
    } catch (const InputError& error) {
      CHECK_THAT(error.message(), Contains("which this build does not read"));
      CHECK_THAT(error.advice(), Contains("export it as STL") && Contains("ELBOWROOM_EXCHANGE=ON"));
    }
  }
}

TEST_CASE("an assembly of exact surfaces comes part by part, in its unit") {
  if (!reads_exchange_files()) return;
  const Bodies bodies = bodies_of(read_mesh_file(DEMO_DIR "/teasel.step"));
  const Bodies meshed = bodies_of(read_mesh_file(DEMO_DIR "/teasel.obj", Vector3::Constant(1e-3)));
  REQUIRE(bodies.list.size() == meshed.list.size());
  CHECK(bodies.mended.empty());
  for (const MeshBody& body : bodies.list) {
    INFO(body.surface.name);
    CHECK(body.health.is_closed());
    CHECK(body.surface.off <= 1e-4);
    // The four screws are one part.
    const bool is_screw = body.surface.name == "base_screw";
    const MeshBody& other =
        is_screw ? meshed.numbered(body.number) : named(meshed, body.surface.name);
    CHECK((body.box.middle() - other.box.middle()).norm() < (is_screw ? 0.3 : 2e-3));
    CHECK(body.surface.colour.has_value() == (is_screw || body.surface.name == "base_motor"));
  }
  CHECK(named(bodies, "base_motor").surface.colour->red == Approx(0.3).margin(0.01));
  CHECK(named(bodies, "base_motor").inside_of == named(bodies, "base_housing").number);

  // Against closed forms: a mesh of corners on the surface is off by less than area times distance.
  const auto near = [&](const char* name, double volume) {
    const MeshBody& body = named(bodies, name);
    CHECK(std::abs(body.volume - volume) <= body.health.area * body.surface.off + 1e-12);
  };
  near("turret_housing", turned_volume({{0, 160}, {85, 160}, {85, 268}, {0, 268}}));
  near("turret_drum", turned_volume({{30, -62}, {72, -62}, {72, 62}, {30, 62}}));
  near("base_housing",
       turned_volume(
           {{0, 0}, {115, 0}, {115, 20}, {95, 20}, {95, 150}, {60, 150}, {60, 158}, {0, 158}}) -
           turned_volume({{0, 25}, {80, 25}, {80, 140}, {0, 140}}));
  CHECK(named(bodies, "upper_arm_beam").volume == Approx(56e-3 * 34e-3 * 284e-3).epsilon(1e-9));
  CHECK(named(bodies, "upper_arm_beam").surface.off == 0.0);

  const test::Folder folder;
  const Bodies large = bodies_of(read_mesh_file(
      folder.write("large.stp", replaced(text_of_demo("teasel.step"), ".MILLI.", ".CENTI."))));
  CHECK(large.high.z() ==
        Approx(10.0 * bodies.high.z())
            .epsilon(1e-4));  // flat ends are exact, round ones as far as triangles
}

TEST_CASE("shapes of exact surfaces hold these, not only their triangles") {
  if (!reads_exchange_files()) return;
  const Bodies bodies = bodies_of(read_mesh_file(DEMO_DIR "/teasel.step"));
  const MeshBody& drum = named(bodies, "turret_drum");  // 72 mm about y through [40, 0, 340]
  for (const BodyShape as :
       {BodyShape::hull, BodyShape::mesh, BodyShape::hulls, BodyShape::simplest})
    for (const double detail : {0.0, 1e-3}) {
      if (as == BodyShape::hulls && detail > 0.0) continue;
      const ShapedBody shaped =
          shapes_of(drum, {.as = as, .within = 8e-3, .detail = detail}, {.file = "teasel.step"});
      double worst = 0.0;
      for (int i = 0; i < 1000; ++i) {
        const double turn = 2.0 * std::numbers::pi * i / 1000.0;
        const Vector3 point(0.040 + 0.072 * std::sin(turn), 0.062, 0.340 + 0.072 * std::cos(turn));
        double nearest = 1.0;
        for (const Part& part : shaped.parts)
          nearest = std::min(nearest,
                             distance(Sphere{0.0}, Pose::at(point), part.shape, part.at).distance);
        worst = std::max(worst, nearest);
      }
      INFO(static_cast<int>(as) << " " << detail);
      CHECK(worst <= 0.0);
    }
}

TEST_CASE("an arm is made from exact surfaces as from a mesh") {
  if (!reads_exchange_files()) return;
  const test::Folder folder;
  folder.write("teasel.step", text_of_demo("teasel.step"));
  const std::string cell = test::cad_cell_with(test::cad_bodies("file: teasel.step", ""));
  const Cell loaded = load_cell(folder.write("cad.cell.yaml", cell));
  REQUIRE(loaded.notes().size() == 1);
  CHECK_THAT(loaded.notes()[0].text, Contains("mm off the triangles"));
  const Arm meshed = test::cad_arm();
  const Arm& exact = loaded.arm("teasel");
  for (std::size_t l = 0; l < meshed.links().size(); ++l) {
    // Cylinders of 24 sides hold 0.99 of what round ones hold.
    const double ratio = meshed.links()[l].inertial.mass / exact.links()[l].inertial.mass;
    CHECK(ratio < 1.0);
    CHECK(ratio > 0.985);
  }
  CHECK_THROWS_WITH(
      load_cell(folder.write("unit.cell.yaml",
                             test::cad_cell_with(test::cad_bodies("file: teasel.step")))),
      Contains("states its own unit"));
}

TEST_CASE("faces that only lie beside each other are sewn to a solid") {
  if (!reads_exchange_files()) return;
  const test::Folder folder;
  const Bodies bodies =
      bodies_of(read_mesh_file(folder.write("box.igs", iges_box({30.0, 40.0, 50.0}))));
  REQUIRE(bodies.list.size() == 1);
  CHECK(bodies.list[0].health.is_closed());
  CHECK(bodies.list[0].volume == Approx(30e-3 * 40e-3 * 50e-3).epsilon(1e-9));
}

TEST_CASE("broken exchange files are refused") {
  if (!reads_exchange_files()) return;
  const test::Folder folder;
  const std::string whole = text_of_demo("teasel.step");
  const auto refused = [&](const std::string& name, const std::string& text) {
    INFO(name);
    CHECK_THROWS_WITH(read_mesh_file(folder.write(name, text)), Contains("cannot be read"));
  };
  // A line that others refer to is gone, but not the reader's message alone says so.
  const std::string first = "#1=APPLICATION_CONTEXT('automotive design');\n";
  CHECK_THROWS_WITH(read_mesh_file(folder.write("gone.step", replaced(whole, first, ""))),
                    Contains("gone.step:8:") && Contains("#1 is not in this file"));
  CHECK_THROWS_WITH(read_mesh_file(folder.write("cut.step", whole.substr(0, whole.size() / 2))),
                    Contains("is cut short"));
  // A solid that cannot be made is not passed over.
  CHECK_THROWS_WITH(
      read_mesh_file(folder.write("garbled.step", replaced(whole, "CLOSED_SHELL", "CLOSD_SHEL"))),
      Contains("1 of its 16 solids cannot be read"));
  refused("empty.igs", "");
  refused("words.iges", "a word\n");
  CHECK_THROWS_WITH(read_mesh_file("nowhere.step"), Contains("no such file"));
}

}  // namespace er
