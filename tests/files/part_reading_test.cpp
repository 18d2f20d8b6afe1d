// Shapes from files: meshes, clouds and what can be wrong with them; and back into a cell file.
#include <catch2/catch.hpp>

#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/cell_writer.hpp"
#include "elbowroom/files/cloud_file.hpp"
#include "elbowroom/files/robot_xml.hpp"
#include "elbowroom/model/cloud.hpp"
#include "elbowroom/model/mesh.hpp"
#include "support/folder.hpp"

using namespace er;
using Catch::Contains;
using Catch::StartsWith;

namespace {

class ModelFolder : public test::Folder {
 public:
  /// A cell with one fixture of one part, given as it stands in the file.
  Cell cell(const std::string& part) const {
    return load_cell(
        write("one.cell.yaml",
              "elbowroom: cell/1\nfixtures:\n  - name: thing\n    parts: [{" + part + "}]\n"));
  }
  Shape shape(const std::string& part) const { return cell(part).fixtures()[0].parts[0].shape; }
  std::string fault(const std::string& part) const {
    try {
      shape(part);
    } catch (const InputError& error) {
      const std::string text = error.what();
      return text.substr(text.find("one.cell.yaml") == 0 ? 0 : text.rfind('/') + 1);
    }
    return "";
  }
};

// A tetrahedron of which `faces` of the four are there.
std::string tetrahedron(int faces, const std::string& more = "") {
  std::string text =
      "ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\n"
      "property float z\nelement face " +
      std::to_string(faces + (more.empty() ? 0 : 1)) +
      "\nproperty list uchar int vertex_indices\nend_header\n"
      "0 0 0\n100 0 0\n0 100 0\n0 0 100\n";
  const char* all[] = {"3 0 2 1\n", "3 0 1 3\n", "3 0 3 2\n", "3 1 2 3\n"};
  for (int i = 0; i < faces; ++i) text += all[i];
  return text + more;
}

}  // namespace

TEST_CASE("meshes come as they are, solid or as a skin, in their unit") {
  const ModelFolder folder;
  folder.write("whole.ply", tetrahedron(4));
  folder.write("open.ply", tetrahedron(3));
  const auto mesh = std::get<Mesh>(folder.shape("mesh: {file: whole.ply, unit: mm}"));
  CHECK(mesh.data->faces.size() == 4);
  CHECK(mesh.data->corners.size() == 4);
  CHECK(volume(mesh) == Approx(1e-3 / 6.0).epsilon(1e-6));
  CHECK(encloses(*mesh.data, {0.02, 0.02, 0.02}));
  CHECK_FALSE(encloses(*mesh.data, {0.05, 0.05, 0.05}));
  const auto skin = std::get<Mesh>(folder.shape("mesh: {file: open.ply, unit: mm, skin: yes}"));
  CHECK(skin.data->is_skin);
  CHECK(skin.data->faces.size() == 3);
  const std::string open = folder.fault("mesh: {file: open.ply, unit: mm}");
  CHECK_THAT(open, StartsWith("one.cell.yaml:4:27: mesh 'open.ply': this mesh is open") &&
                       Contains("3 of its edges are without a neighbour") &&
                       Contains("say skin: yes"));
  CHECK_THAT(folder.fault("mesh: {file: whole.ply, skin: perhaps}"),
             StartsWith("one.cell.yaml:4:44: expected yes or no"));
  CHECK_THAT(folder.fault("mesh: {file: hole.ply}"), Contains("hole.ply"));
  CHECK_THAT(folder.fault("mesh: {file: whole.ply, unit: kg}"),
             Contains("'kg' is no unit of length"));
}

TEST_CASE("triangles without three corners are left out, and noted") {
  const ModelFolder folder;
  folder.write("sliver.ply", tetrahedron(4, "3 1 1 2\n"));
  const Cell cell = folder.cell("mesh: {file: sliver.ply, unit: mm}");
  REQUIRE(cell.notes().size() == 1);
  CHECK(cell.notes()[0].subject == "thing, mesh 'sliver.ply'");
  CHECK_THAT(cell.notes()[0].text, StartsWith("1 of its triangles has less than three"));
}

TEST_CASE("clouds come from tables and from the points of meshes") {
  const ModelFolder folder;
  folder.write("plain.csv", "# measured\n0,0,0\n10; 20; 30\n\n1 2 3 0.7\n");
  folder.write("named.csv", "intensity,z,x,y\n5,3,1,2\n5,30,10,20\n");
  folder.write("points.ply",
               "ply\nformat ascii 1.0\nelement vertex 2\nproperty float x\nproperty float y\n"
               "property float z\nend_header\n1 2 3\n4 5 6\n");
  const auto cloud = [&](const std::string& file) {
    return std::get<Cloud>(folder.shape("cloud: {file: " + file + ", unit: mm, radius: 2 mm}"));
  };
  const Cloud plain = cloud("plain.csv");
  REQUIRE(plain.data->points.size() == 3);
  CHECK(plain.data->radius == 0.002);
  CHECK((plain.data->points[1] - Vector3(0.01, 0.02, 0.03)).norm() < 1e-15);
  CHECK((cloud("named.csv").data->points[0] - Vector3(0.001, 0.002, 0.003)).norm() < 1e-15);
  CHECK((cloud("points.ply").data->points[1] - Vector3(0.004, 0.005, 0.006)).norm() < 1e-9);
}

TEST_CASE("a cloud that is no cloud is refused with line and column") {
  const ModelFolder folder;
  const auto fault_of = [&](const std::string& text) {
    folder.write("bad.csv", text);
    return folder.fault("cloud: {file: bad.csv, radius: 2 mm}");
  };
  CHECK_THAT(fault_of("1,2,3\n4,nan,6\n"),
             StartsWith("bad.csv:2:3: expected a number, found 'nan'"));
  CHECK_THAT(fault_of("1,2,3\n4,5\n"),
             StartsWith("bad.csv:2:1: expected x, y and z, found 2 values"));
  CHECK_THAT(fault_of("1,2,3\n4,5,six\n"),
             StartsWith("bad.csv:2:5: expected a number, found 'six'"));
  CHECK_THAT(fault_of("a,b,c\n1,2,3\n"), StartsWith("bad.csv:1:1: this heading names no column x"));
  CHECK_THAT(fault_of("# nothing\n"), StartsWith("bad.csv:1:1: there are no points here"));
  CHECK_THAT(folder.fault("cloud: {file: bad.csv}"), Contains("radius"));
  CHECK_THAT(folder.fault("cloud: {file: bad.csv, radius: 0 mm}"), Contains("above zero"));
  folder.write("nan.ply",
               "ply\nformat ascii 1.0\nelement vertex 2\nproperty float x\nproperty float y\n"
               "property float z\nend_header\n1 2 3\n4 nan 6\n");
  CHECK_THAT(folder.fault("cloud: {file: nan.ply, radius: 2 mm}"),
             Contains("point 2 of a cloud is not finite"));
}

TEST_CASE("cones and half-spaces arrive where they are put") {
  const ModelFolder folder;
  const Part cone =
      folder.cell("cone: {radius: 50 mm, top: 20 mm, from: [0, 0, 100 mm], to: [0, 0, 0]}")
          .fixtures()[0]
          .parts[0];
  CHECK(std::get<Cone>(cone.shape).length == Approx(0.1));
  CHECK((cone.at * Vector3(0, 0, 0.05)).norm() < 1e-12);  // its upper end is down
  const Part based = folder.cell("cone: {radius: 50 mm, length: 80 mm, base: [0, 0, 10 mm]}")
                         .fixtures()[0]
                         .parts[0];
  CHECK(based.at.position.z() == Approx(0.05));
  const Part wall =
      folder.cell("half_space: {normal: [-2, 0, 0]}, at: [1 m, 0, 0]").fixtures()[0].parts[0];
  CHECK((wall.at.rotation.col(2) + Vector3::UnitX()).norm() < 1e-15);
  CHECK(wall.at.position.x() == 1.0);
  CHECK_THAT(folder.fault("half_space: {normal: [0, 0, 0]}"),
             Contains("this normal has no direction"));
  CHECK_THAT(folder.fault("cone: {radius: 50 mm, top: -1 mm, length: 10 mm}"),
             Contains("upper radius of a cone must be above zero"));
}

TEST_CASE("cell files with the new shapes come back as they were") {
  const ModelFolder folder;
  folder.write("whole.ply", tetrahedron(4));
  folder.write("open.ply", tetrahedron(2));
  folder.write("points.csv", "1,2,3\n4,5,6\n");
  for (const char* part :
       {"mesh: {file: whole.ply, unit: mm}", "mesh: {file: open.ply, unit: cm, skin: yes}",
        "cloud: {file: points.csv, unit: mm, radius: 3 mm}", "cone: {radius: 5 mm, length: 8 mm}",
        "half_space: {normal: [0, 1, 0]}, at: [0, 2 m, 0]"}) {
    const Cell cell = folder.cell(part);
    const Written written = cell_file_of(cell);
    CHECK(written.lost.empty());
    const Cell again = load_cell(folder.write("again.cell.yaml", written.text));
    const Part& was = cell.fixtures()[0].parts[0];
    const Part& is = again.fixtures()[0].parts[0];
    INFO(written.text);
    REQUIRE(is.shape.index() == was.shape.index());
    CHECK(bounding_radius(is.shape) == bounding_radius(was.shape));
    CHECK((is.at.rotation - was.at.rotation).norm() < 1e-15);
    CHECK((is.at.position - was.at.position).norm() < 1e-15);
  }
}

TEST_CASE("robot XML has no cones and clouds: they are listed as lost") {
  const Link base{.name = "base",
                  .parts = {{.shape = Cone{0.1, 0.0, 0.2}},
                            {.shape = cloud_of({{0, 0, 0}}, 0.01)},
                            {.shape = Sphere{0.1}}}};
  const Written written = robot_xml_of(Arm::build({.name = "r", .links = {base}}));
  REQUIRE(written.lost.size() >= 2);
  CHECK(written.lost[written.lost.size() - 2].text == "clouds");
  CHECK(written.lost[written.lost.size() - 1].text == "cones");
  CHECK(parse_robot_xml(written.text, "r.xml").links[0].parts.size() == 1);
}
