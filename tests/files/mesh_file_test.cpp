// Mesh files of all formats, body by body, and arms made of them.
#include "elbowroom/files/mesh_file.hpp"

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <cstdlib>
#include <filesystem>
#include <fstream>

#include "elbowroom/collision/inspection.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/cell_writer.hpp"
#include "elbowroom/files/guarded.hpp"
#include "elbowroom/files/robot_xml.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/mesh.hpp"
#include "support/demo.hpp"
#include "support/folder.hpp"
#include "support/meshes.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

// A box of 100 by 200 by 300, and a smaller one beside it.
std::vector<Surface> two_boxes() {
  std::vector<Surface> out;
  for (const double size : {1.0, 0.5}) {
    const Mesh box = box_mesh(Vector3(100, 200, 300) * size);
    Surface one{.name = size == 1.0 ? "large" : "small",
                .corners = box.data->corners,
                .faces = box.data->faces};
    for (Vector3& corner : one.corners) corner.x() += size == 1.0 ? 0.0 : 400.0;
    out.push_back(std::move(one));
  }
  return out;
}

std::string as_text_stl(const std::vector<Surface>& surfaces) {
  std::string out;
  for (const Surface& one : surfaces) {
    out += "solid " + one.name + "\n";
    for (std::size_t i = 0; i < one.faces.size(); ++i) {
      out += "facet normal 0 0 0\nouter loop\n";
      for (const Vector3& p : one.triangle(i))
        out += fmt::format("vertex {} {} {}\n", p.x(), p.y(), p.z());
      out += "endloop\nendfacet\n";
    }
    out += "endsolid " + one.name + "\n";
  }
  return out;
}

std::string as_binary_stl(const std::vector<Surface>& surfaces) {
  std::string out(80, ' ');
  Surface whole;
  for (const Surface& one : surfaces) append(whole, one);
  const auto count = static_cast<std::uint32_t>(whole.faces.size());
  out.append(reinterpret_cast<const char*>(&count), 4);
  for (std::size_t i = 0; i < whole.faces.size(); ++i) {
    out.append(12, '\0');
    for (const Vector3& p : whole.triangle(i))
      for (const double value : p) {
        const auto one = static_cast<float>(value);
        out.append(reinterpret_cast<const char*>(&one), 4);
      }
    out.append(2, '\0');
  }
  return out;
}

std::string as_ply(const std::vector<Surface>& surfaces) {
  Surface whole;
  for (const Surface& one : surfaces) append(whole, one);
  std::string out = fmt::format(
      "ply\nformat ascii 1.0\nelement vertex {}\nproperty float x\nproperty float y\nproperty "
      "float "
      "z\nelement face {}\nproperty list uchar int vertex_indices\nend_header\n",
      whole.corners.size(), whole.faces.size());
  for (const Vector3& p : whole.corners) out += fmt::format("{} {} {}\n", p.x(), p.y(), p.z());
  for (const auto& f : whole.faces) out += fmt::format("3 {} {} {}\n", f[0], f[1], f[2]);
  return out;
}

// In centimetres, which the format lets a file say.
std::string as_collada(const std::vector<Surface>& surfaces) {
  std::string geometries;
  std::string nodes;
  for (const Surface& one : surfaces) {
    std::string points;
    for (const Vector3& p : one.corners) points += fmt::format("{} {} {} ", p.x(), p.y(), p.z());
    std::string faces;
    for (const auto& f : one.faces) faces += fmt::format("{} {} {} ", f[0], f[1], f[2]);
    geometries += fmt::format(
        "<geometry id=\"{0}\" name=\"{0}\"><mesh><source id=\"{0}p\"><float_array id=\"{0}a\" "
        "count=\"{1}\">{2}</float_array><technique_common><accessor source=\"#{0}a\" count=\"{3}\" "
        "stride=\"3\"><param name=\"X\" type=\"float\"/><param name=\"Y\" type=\"float\"/><param "
        "name=\"Z\" type=\"float\"/></accessor></technique_common></source><vertices "
        "id=\"{0}v\"><input "
        "semantic=\"POSITION\" source=\"#{0}p\"/></vertices><triangles count=\"{4}\"><input "
        "semantic=\"VERTEX\" source=\"#{0}v\" "
        "offset=\"0\"/><p>{5}</p></triangles></mesh></geometry>",
        one.name, 3 * one.corners.size(), points, one.corners.size(), one.faces.size(), faces);
    nodes += fmt::format("<node id=\"n{0}\" name=\"{0}\"><instance_geometry url=\"#{0}\"/></node>",
                         one.name);
  }
  return "<?xml version=\"1.0\"?><COLLADA xmlns=\"http://www.collada.org/2005/11/COLLADASchema\" "
         "version=\"1.4.1\"><asset><unit name=\"millimeter\" "
         "meter=\"0.001\"/><up_axis>Z_UP</up_axis>"
         "</asset><library_geometries>" +
         geometries + "</library_geometries><library_visual_scenes><visual_scene id=\"s\">" +
         nodes +
         "</visual_scene></library_visual_scenes><scene><instance_visual_scene url=\"#s\"/></scene>"
         "</COLLADA>";
}

std::string base64(const std::string& bytes) {
  const char* const kLetters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
  std::string out;
  for (std::size_t i = 0; i < bytes.size(); i += 3) {
    unsigned word = 0;
    for (std::size_t k = 0; k < 3; ++k)
      word = word << 8 | (i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0U);
    for (std::size_t k = 0; k < 4; ++k)
      out += i + k > bytes.size() ? '=' : kLetters[word >> (18 - 6 * k) & 63U];
  }
  return out;
}

// In metres, as the format has it; each body a mesh, on a node that says where it is.
std::string as_gltf(const std::vector<Surface>& surfaces) {
  std::string bytes;
  std::string views;
  std::string accessors;
  std::string meshes;
  std::string nodes;
  for (std::size_t i = 0; i < surfaces.size(); ++i) {
    const Surface& one = surfaces[i];
    const char* const comma = i == 0 ? "" : ",";
    const std::size_t begin = bytes.size();
    const AlignedBox box = box_of(one);
    for (const Vector3& p : one.corners)
      for (Eigen::Index k = 0; k < 3; ++k) {
        const auto value = static_cast<float>(p[k] - (k == 0 ? box.middle().x() : 0.0));
        bytes.append(reinterpret_cast<const char*>(&value), 4);
      }
    const std::size_t middle = bytes.size();
    for (const auto& face : one.faces)
      for (const int corner : face) {
        const auto value = static_cast<std::uint32_t>(corner);
        bytes.append(reinterpret_cast<const char*>(&value), 4);
      }
    views += fmt::format(
        "{}{{\"buffer\":0,\"byteOffset\":{},\"byteLength\":{}}},{{\"buffer\":0,"
        "\"byteOffset\":{},\"byteLength\":{}}}",
        comma, begin, middle - begin, middle, bytes.size() - middle);
    const Vector3 half = box.half();
    accessors += fmt::format(
        "{}{{\"bufferView\":{},\"componentType\":5126,\"count\":{},\"type\":\"VEC3\",\"min\":[{},{}"
        ",{}"
        "],\"max\":[{},{},{}]}},{{\"bufferView\":{},\"componentType\":5125,\"count\":{},\"type\":"
        "\"SCALAR\"}}",
        comma, 2 * i, one.corners.size(), -half.x(), box.low.y(), box.low.z(), half.x(),
        box.high.y(), box.high.z(), 2 * i + 1, 3 * one.faces.size());
    meshes += fmt::format(
        "{}{{\"name\":\"{}\",\"primitives\":[{{\"attributes\":{{\"POSITION\":{}}},\"indices\":{}}}]"
        "}}",
        comma, one.name, 2 * i, 2 * i + 1);
    nodes += fmt::format("{}{{\"name\":\"{}\",\"mesh\":{},\"translation\":[{},0,0]}}", comma,
                         one.name, i, box.middle().x());
  }
  return fmt::format(
      "{{\"asset\":{{\"version\":\"2.0\"}},\"scene\":0,\"scenes\":[{{\"nodes\":[0,1]}}],\"nodes\":["
      "{}],"
      "\"meshes\":[{}],\"accessors\":[{}],\"bufferViews\":[{}],\"buffers\":[{{\"byteLength\":{},"
      "\"uri\":\"data:application/octet-stream;base64,{}\"}}]}}",
      nodes, meshes, accessors, views, bytes.size(), base64(bytes));
}

std::string fault(const std::string& file) {
  try {
    read_mesh_file(file);
  } catch (const InputError& error) {
    return error.what();
  }
  return "";
}

std::string demo_arm(const std::string& bodies) {
  const std::string text = read_text(DEMO_DIR "/cad.cell.yaml");
  const std::size_t begin = text.find("    bodies:");
  const std::size_t end = text.find("    stances:");
  return text.substr(0, begin) + bodies + text.substr(end);
}

// Without its cable.
Cell cad_cell() { return Cell::build({.arms = {cad_arm()}}); }

}  // namespace

TEST_CASE("each format gives the same two bodies") {
  const Folder folder;
  struct One {
    const char* name;
    std::string text;
    bool has_names;
    double unit;
  };
  for (const One& one : {One{"text.stl", as_text_stl(two_boxes()), true, 1.0},
                         One{"binary.stl", as_binary_stl(two_boxes()), false, 1.0},
                         One{"names.obj", as_obj(two_boxes()), true, 1.0},
                         One{"plain.ply", as_ply(two_boxes()), false, 1.0},
                         One{"said.dae", as_collada(two_boxes()), true, 1e-3},
                         One{"metres.gltf", as_gltf(two_boxes()), true, 1.0}}) {
    INFO(one.name);
    const Bodies bodies = bodies_of(read_mesh_file(folder.write(one.name, one.text)));
    REQUIRE(bodies.list.size() == 2);
    CHECK(bodies.list[0].volume == Approx(6e6 * std::pow(one.unit, 3)));
    CHECK(bodies.list[1].volume == Approx(0.75e6 * std::pow(one.unit, 3)));
    CHECK((bodies.list[1].box.middle() / one.unit - Vector3(400, 0, 0)).norm() < 1e-3);
    if (one.has_names) CHECK(bodies.list[1].surface.name == "small");
  }
}

TEST_CASE("files that are no meshes, or broken, say so") {
  const Folder folder;
  CHECK_THAT(fault(folder.write("empty.stl", "")), Contains("cannot be read"));
  CHECK_THAT(fault(folder.write("words.obj", "once upon a time\n")), !Contains("internal"));
  CHECK_THAT(fault((folder / "none.stl")), Contains("cannot be read"));
  std::string cut = as_binary_stl(two_boxes());
  cut.resize(cut.size() / 2);
  CHECK_THAT(fault(folder.write("cut.stl", cut)), Contains("cannot be read"));
  std::string nan = as_ply(two_boxes());
  nan.replace(nan.find("-50 "), 3, "nan");
  CHECK_THROWS_WITH(bodies_of(read_mesh_file(folder.write("nan.ply", nan))),
                    Contains("is not finite"));
  // A million triangles that are none.
  std::string header(80, ' ');
  const std::uint32_t count = 1000000;
  header.append(reinterpret_cast<const char*>(&count), 4);
  header.append(std::size_t{50} * count, '\0');
  CHECK_THROWS_WITH(bodies_of(read_mesh_file(folder.write("dots.stl", header))),
                    Contains("no triangle of this mesh has three different corners"));
}

TEST_CASE("a part a thousand times too large, or too small, is found") {
  const Folder folder;
  folder.write("two.stl", as_binary_stl(two_boxes()));
  const auto finding = [&](const std::string& part) {
    const Inspection found =
        inspect(load_cell(folder.write("one.cell.yaml",
                                       "elbowroom: cell/1\nfixtures:\n  - name: thing\n    "
                                       "parts: [{" +
                                           part + "}]\n")));
    for (const Finding& one : found.findings)
      if (one.severity == Severity::wrong) return one.subject + ": " + one.text;
    return std::string{};
  };
  CHECK(finding("mesh: {file: two.stl, unit: mm}").empty());
  CHECK_THAT(finding("mesh: {file: two.stl}"),
             Contains("thing: its mesh of 'two.stl': it would be") && Contains("is its unit mm?"));
  folder.write("metres.ply",
               "ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\n"
               "property float z\nend_header\n0 0 0\n0.5 0 0\n0 0.5 0\n0 0 0.5\n");
  CHECK_THAT(finding("hull: {file: metres.ply, unit: mm}"), Contains("is its unit m?"));
}

TEST_CASE("polygons of a file become triangles, convex or not") {
  const Folder folder;
  // An L of 3 by 3 less 2 by 2, 1 high.
  const std::string text =
      "v 0 0 0\nv 3 0 0\nv 3 1 0\nv 1 1 0\nv 1 3 0\nv 0 3 0\nv 0 0 1\nv 3 0 1\nv 3 1 1\nv 1 1 1\n"
      "v 1 3 1\nv 0 3 1\nf 6 5 4 3 2 1\nf 7 8 9 10 11 12\nf 1 2 8 7\nf 2 3 9 8\nf 3 4 10 9\n"
      "f 4 5 11 10\nf 5 6 12 11\nf 6 1 7 12\n";
  const Bodies bodies = bodies_of(read_mesh_file(folder.write("l.obj", text)));
  REQUIRE(bodies.list.size() == 1);
  CHECK(bodies.list[0].surface.faces.size() == 20);
  CHECK(bodies.list[0].volume == Approx(5.0));
  CHECK(bodies.list[0].health.area == Approx(2 * 5.0 + 12.0));
  CHECK(bodies.mended.empty());
}

TEST_CASE("files that make their reader fail, or go on for ever, are refused") {
  CHECK(guarded([] { return std::string("done\0done", 9); }, {}) == std::string("done\0done", 9));
  CHECK_THROWS_WITH(guarded([]() -> std::string { std::abort(); }, {}),
                    Contains("it makes its reader fail"));
  CHECK_THROWS_WITH(guarded(
                        []() -> std::string {
                          const volatile bool goes_on = true;
                          while (goes_on) continue;
                          return "";
                        },
                        {.seconds = 1.0}),
                    Contains("took more than 1 s"));
  CHECK_THROWS_WITH(guarded([]() -> std::string { throw InputError("odd", "even it out"); }, {}),
                    Contains("odd") && Contains("even it out"));
  if (!kSanitized)
    CHECK_THROWS_WITH(
        guarded([] { return std::string(std::size_t{1} << 33, 'x'); }, {.memory = 1 << 26}),
        Contains("more memory"));
}

TEST_CASE("parts may be single bodies of a file, and are written back so") {
  const Folder folder;
  folder.write("two.stl", as_binary_stl(two_boxes()));
  const auto cell = [&](const std::string& part) {
    return load_cell(folder.write(
        "one.cell.yaml",
        "elbowroom: cell/1\nfixtures:\n  - name: thing\n    parts: [{" + part + "}]\n"));
  };
  const Cell small = cell("mesh: {file: two.stl, unit: mm, bodies: [2]}");
  CHECK(volume(small.fixtures()[0].parts[0].shape) == Approx(0.75e-3));
  const Cell both = cell("hull: {file: two.stl, unit: mm, bodies: [2, 1]}");
  CHECK(own_box(both.fixtures()[0].parts[0].shape).high.x() == Approx(0.425));
  CHECK_THAT(cell_file_of(small).text, Contains("bodies: [2]"));
  CHECK_THAT(cell_file_of(both).text, Contains("bodies: [2, 1]"));
  CHECK_THROWS_WITH(cell("mesh: {file: two.stl, bodies: [3]}"),
                    Contains("there is no body 3") && Contains("from 1 to 2"));
  CHECK_THROWS_WITH(cell("mesh: {file: two.stl, bodies: [1.5]}"),
                    Contains("the number of a body is a whole number"));
  CHECK_THROWS_WITH(cell("mesh: {file: two.stl, bodies: []}"), Contains("no body of the mesh"));
  const Cell coarse = cell("hull: {file: two.stl, unit: mm, detail: 5 mm}");
  CHECK_THAT(cell_file_of(coarse).text, Contains("detail: 5 mm"));
  CHECK_THROWS_WITH(cell("hull: {file: two.stl, detail: 0 mm}"), Contains("above zero"));
  const Cell wedge = cell(
      "hull: {points: [[0 mm, 0 mm, 0 mm], [60 mm, 0 mm, 0 mm], [0 mm, 60 mm, 0 mm], [0 mm, 0 mm, "
      "60 mm]]}");
  CHECK(volume(wedge.fixtures()[0].parts[0].shape) == Approx(36e-6));
  CHECK_THROWS_WITH(cell("hull: {points: [[0 m, 0 m, 0 m], [1 m, 0 m, 0 m], [0 m, 1 m, 0 m]]}"),
                    Contains("span no volume") && Contains("one.cell.yaml:4"));
  CHECK_THROWS_WITH(cell("hull: {points: [[0 m, 0 m, 0 m]], file: two.stl}"),
                    Contains("a hull of points has no file"));
}

TEST_CASE("an arm made of the bodies of one file stands as the one made of shapes") {
  const Cell from_cad = cad_cell();
  const Arm& arm = from_cad.arm("teasel");
  const Arm& shapes = demo_cell().arm("teasel");
  // All parts together are the file as it is, moved to the mount.
  const std::vector<Pose> at = link_poses(arm, Posture::Zero(arm.dof()));
  const std::vector<Pose> like = link_poses(shapes, Posture::Zero(shapes.dof()));
  AlignedBox box{Vector3::Constant(9.0), Vector3::Constant(-9.0)};
  double mass = 0.0;
  std::size_t parts = 0;
  for (std::size_t l = 0; l < arm.links().size(); ++l) {
    CHECK((at[l].position - like[l].position).norm() < 1e-12);
    CHECK((at[l].rotation - like[l].rotation).norm() < 1e-12);
    for (const Part& part : arm.links()[l].parts) {
      CHECK(part.looks == std::holds_alternative<Mesh>(part.shape));
      if (!part.collides) continue;
      for (const Vector3& corner : std::get<Hull>(part.shape).data->corners) {
        const Vector3 here = at[l] * part.at * corner;
        box = box.with({here, here});
      }
      ++parts;
    }
    mass += arm.links()[l].inertial.mass;
    CHECK(fault_of(arm.links()[l].inertial).empty());
  }
  CHECK(parts == 18);  // the motor is inside of the base, and only weighs
  CHECK((box.low - Vector3(-0.115, -0.115, 0.4)).norm() < 1e-6);
  CHECK((box.high - Vector3(0.495, 0.115, 1.216)).norm() < 1e-6);
  double volume_of_all = 0.0;
  std::vector<Surface> surfaces = read_mesh_file(DEMO_DIR "/teasel.stl");
  for (const MeshBody& body : bodies_of(surfaces).list) volume_of_all += body.volume;
  CHECK(mass == Approx(2700 * 1e-9 * volume_of_all).epsilon(1e-4));
}

TEST_CASE("what is inside of a body is no part of its link, and is one of any other") {
  const Folder folder;
  std::filesystem::copy(DEMO_DIR "/teasel.stl", folder / "teasel.stl");
  // Body 10, the motor, is inside of body 1, the base.
  const auto parts_of = [&](const std::string& base, const std::string& turret,
                            const std::string& left_out) {
    const Cell cell = load_cell(folder.write(
        "arm.cell.yaml",
        demo_arm("    bodies:\n      file: teasel.stl\n      unit: mm\n      links: {base: [" +
                 base + "], turret: [" + turret +
                 "], upper_arm: [2, 7, 8, 12], elbow_block: [6, 9], forearm: [5, 13], wrist: [11, "
                 "15], flange: [14]}\n      leave_out: [" +
                 left_out + "]\n")));
    return std::pair{cell.arm("").links()[0].parts.size(), cell.arm("").links()[1].parts.size()};
  };
  CHECK(parts_of("1, 16, 17, 18", "3, 4", "19") == std::pair<std::size_t, std::size_t>{4, 2});
  CHECK(parts_of("1, 10, 16, 17, 18", "3, 4", "19") == std::pair<std::size_t, std::size_t>{4, 2});
  // It turns with the turret: it may come out.
  CHECK(parts_of("1, 16, 17, 18", "3, 4, 10", "19") == std::pair<std::size_t, std::size_t>{4, 3});
  // What hid it is not there.
  CHECK(parts_of("10, 16, 17, 18, 19", "3, 4", "1") == std::pair<std::size_t, std::size_t>{5, 2});
}

TEST_CASE("bodies that are left out of an arm are noted") {
  const Folder folder;
  std::filesystem::copy(DEMO_DIR "/teasel.stl", folder / "teasel.stl");
  const Cell cell = load_cell(folder.write(
      "arm.cell.yaml",
      demo_arm("    bodies:\n      file: teasel.stl\n      unit: mm\n      links: {base: [1], "
               "turret: [3, 4], "
               "upper_arm: [2, 7, 8, 12], elbow_block: [6, 9], forearm: [5, 13], wrist: [11, 15], "
               "flange: [14]}\n      leave_out: [19, 16, 17, 18]\n")));
  REQUIRE(cell.notes().size() == 1);
  CHECK(cell.notes()[0].text == "bodies are left out: 16, 17, 18, 19");
  CHECK(cell.notes()[0].place.line > 30);
  CHECK(cell.arm("").links()[0].parts.size() == 1);
}

TEST_CASE("bodies of an arm by boxes, small ones dropped, cables shown only, links coloured") {
  const Folder folder;
  std::filesystem::copy(DEMO_DIR "/teasel.stl", folder / "teasel.stl");
  const std::string rest =
      "upper_arm: [2, 7, 8, 12], elbow_block: [6, 9], forearm: [5, 13], wrist: [11, 15], flange: "
      "[14]}\n";
  // The base and the turret by boxes; the screws are 12 mm large.
  const Cell cell = load_cell(folder.write(
      "arm.cell.yaml",
      demo_arm(
          "    bodies:\n      file: teasel.stl\n      unit: mm\n      drop_below: 15 mm\n"
          "      looks_only: [13]\n      colours: {base: \"#102030\"}\n"
          "      links: {base: [{low: [-200 mm, -200 mm, -1 mm], high: [200 mm, 200 mm, 159 mm]}], "
          "turret: [3, {low: [-200 mm, -200 mm, 150 mm], high: [200 mm, 200 mm, 450 mm]}], " +
          rest)));
  const std::vector<Link>& links = cell.arm("").links();
  REQUIRE(links[0].parts.size() == 1);
  CHECK(links[0].parts[0].colour.green == Approx(32.0 / 255));
  CHECK(links[1].parts.size() == 2);
  REQUIRE(links[4].parts.size() == 2);
  CHECK(links[4].parts[0].collides);
  CHECK_FALSE(links[4].parts[1].collides);
  CHECK(links[4].parts[1].looks);
  REQUIRE(cell.notes().size() == 2);
  CHECK(cell.notes()[0].text == "bodies are left out as too small: 16, 17, 18, 19");
  // The lid of the forearm, 8 mm thick, lies on its hull.
  CHECK_THAT(cell.notes()[1].text, Contains("body 13 is in pictures alone, and reaches ") &&
                                       Contains("mm beyond what collides of link forearm"));
}

TEST_CASE("each body of an arm as the shape that is asked for, and written back as it is") {
  const Folder folder;
  std::filesystem::copy(DEMO_DIR "/teasel.stl", folder / "teasel.stl");
  const auto arm_with = [&](const std::string& keys) {
    return load_cell(folder.write(
        "arm.cell.yaml",
        demo_arm("    bodies:\n      file: teasel.stl\n      unit: mm\n" + keys +
                 "      links: {base: [1, 16, 17, 18, 19], turret: [3, 4], upper_arm: [2, 7, 8, "
                 "12], elbow_block: [6, 9], forearm: [5, 13], wrist: [11, 15], flange: [14]}\n")));
  };
  const Cell simplest = arm_with(
      "      shape: simplest\n      within: 4 mm\n      shapes:\n        - {bodies: [5], shape: "
      "mesh, "
      "detail: 2 mm}\n        - {bodies: [4], shape: hull, detail: 3 mm, looks: mesh, "
      "looks_detail: 1 "
      "mm}\n");
  const std::vector<Link>& links = simplest.arm("").links();
  const auto kind = [](const Part& part) { return std::string(name_of(part.shape)); };
  // Base: several hulls, and four screws.
  CHECK(links[0].parts.size() > 5);
  CHECK(kind(links[0].parts.back()) == "cylinder");
  REQUIRE(links[1].parts.size() == 3);
  CHECK(kind(links[1].parts[0]) == "cylinder");
  CHECK(kind(links[1].parts[1]) == "hull");
  CHECK_FALSE(links[1].parts[1].looks);
  CHECK(kind(links[1].parts[2]) == "mesh");
  CHECK_FALSE(links[1].parts[2].collides);
  CHECK(kind(links[2].parts[0]) == "box");
  const auto& tube = std::get<Mesh>(links[4].parts[0].shape);
  CHECK(tube.data->origin.detail == 2e-3);
  CHECK(tube.data->thickness > 0.0);
  CHECK(tube.data->thickness <= 2.001e-3);
  CHECK(simplest.notes().empty());

  const Written written = cell_file_of(simplest);
  CHECK_THAT(written.text, Contains("detail: 2 mm") && Contains("hull: {points: [["));
  const Cell again = load_cell(folder.write("again.cell.yaml", written.text));
  REQUIRE(again.arm("").links().size() == links.size());
  for (std::size_t l = 0; l < links.size(); ++l) {
    const std::vector<Part>& parts = again.arm("").links()[l].parts;
    REQUIRE(parts.size() == links[l].parts.size());
    for (std::size_t i = 0; i < parts.size(); ++i) {
      CHECK(kind(parts[i]) == kind(links[l].parts[i]));
      CHECK(volume(parts[i].shape) == Approx(volume(links[l].parts[i].shape)));
      CHECK(parts[i].collides == links[l].parts[i].collides);
    }
  }

  // An open body has no inside that hulls could follow.
  Surface tent{.corners = {{0, 0, 90}}};
  for (int i = 0; i < 6; ++i) {
    tent.corners.emplace_back(90 * std::cos(i * 3.14159265358979 / 3),
                              90 * std::sin(i * 3.14159265358979 / 3), 0);
    tent.faces.push_back({0, i + 1, (i + 1) % 6 + 1});
  }
  folder.write("tent.stl", as_binary_stl({tent}));
  const Cell open = load_cell(
      folder.write("open.cell.yaml", demo_arm("    bodies: {file: tent.stl, unit: mm, links: "
                                              "{base: [1]}, shape: simplest, within: 1 mm}\n")));
  REQUIRE(open.notes().size() == 1);
  CHECK_THAT(open.notes()[0].text,
             Contains("what is checked of body 1 (hull) stands out of it by up to ") &&
                 Contains("more than 1 mm"));
}

namespace {

AlignedBox box_of_hull(const Part& part) {
  AlignedBox box{Vector3::Constant(9.0), Vector3::Constant(-9.0)};
  for (const Vector3& corner : std::get<Hull>(part.shape).data->corners)
    box = box.with({part.at * corner, part.at * corner});
  return box;
}

}  // namespace

TEST_CASE("an arm's mesh may lie elsewhere than in its base frame") {
  const Folder folder;
  std::vector<Surface> surfaces = read_mesh_file(DEMO_DIR "/teasel.stl");
  for (Surface& surface : surfaces)
    for (Vector3& corner : surface.corners)  // y up, and 500 mm higher
      corner = Vector3(corner.x(), corner.z() + 500.0, -corner.y());
  folder.write("teasel.stl", as_binary_stl(surfaces));
  const Cell moved = load_cell(folder.write(
      "arm.cell.yaml",
      demo_arm(
          "    bodies:\n      file: teasel.stl\n      unit: mm\n      at: {position: [0 mm, 0 mm, "
          "-500 mm], rpy: [90 deg, 0 deg, 0 deg]}\n      looks: mesh\n      links: {base: [1, 16, "
          "17, "
          "18, 19], turret: [3, 4], upper_arm: [2, 7, 8, 12], elbow_block: [6, 9], forearm: [5, "
          "13], wrist: [11, 15], flange: [14]}\n")));
  const Cell straight = cad_cell();
  const std::vector<Link>& links = straight.arm("").links();
  for (std::size_t l = 0; l < links.size(); ++l) {
    const std::vector<Part>& parts = moved.arm("").links()[l].parts;
    REQUIRE(parts.size() == links[l].parts.size());
    for (std::size_t i = 0; i < parts.size(); ++i) {
      if (!parts[i].collides) continue;
      const AlignedBox here = box_of_hull(parts[i]);
      const AlignedBox like = box_of_hull(links[l].parts[i]);
      CHECK((here.low - like.low).norm() < 1e-6);
      CHECK((here.high - like.high).norm() < 1e-6);
    }
  }
}

TEST_CASE("an arm may take its axes from the bores and bosses of its mesh") {
  const Folder folder;
  std::filesystem::copy(DEMO_DIR "/teasel.stl", folder / "teasel.stl");
  const auto arm_with = [&](const std::string& axes, const std::string& from,
                            const std::string& to) {
    std::string text =
        demo_arm("    bodies:\n      file: teasel.stl\n      unit: mm\n" + axes +
                 "      links: {base: [1, 16, 17, 18, 19], turret: [3, 4], upper_arm: [2, 7, 8, "
                 "12], elbow_block: [6, 9], forearm: [5, 13], wrist: [11, 15], flange: [14]}\n");
    text.replace(text.find(from), from.size(), to);
    return load_cell(folder.write("arm.cell.yaml", text));
  };
  const Cell right = cad_cell();
  const auto places = [](const Cell& cell) {
    const Arm& arm = cell.arm("");
    return link_poses(arm, Posture::Zero(arm.dof()));
  };
  const Cell taken =
      arm_with("      axes: all\n", "elbow_offset: 30 mm above", "elbow_offset: 24 mm above");
  const Cell one = arm_with("      axes: [forearm_turn]\n", "elbow_offset: 30 mm above",
                            "elbow_offset: 24 mm above");
  for (std::size_t l = 0; l < places(right).size(); ++l) {
    CHECK((places(taken)[l].position - places(right)[l].position).norm() < 1e-5);
    CHECK((places(one)[l].position - places(right)[l].position).norm() < 1e-5);
    CHECK((places(taken)[l].rotation - places(right)[l].rotation).norm() < 1e-12);
  }
  REQUIRE(taken.notes().size() == 1);
  CHECK_THAT(taken.notes()[0].text,
             Contains("joint forearm_turn is where the boss of 88 mm diameter") &&
                 Contains("from elbow along z it is 24 mm in the description, 30 mm by the mesh"));
  // What is not asked for stays as it is described.
  const Cell other =
      arm_with("      axes: [waist]\n", "elbow_offset: 30 mm above", "elbow_offset: 24 mm above");
  CHECK((places(other)[5].position - places(right)[5].position).norm() == Approx(6e-3));
  CHECK(other.notes().empty());
  // Too far off to be found by itself, it is chosen by its body.
  const std::string from = "elbow_offset: 30 mm above";
  const std::string far = "elbow_offset: 150 mm below";
  CHECK_THROWS_WITH(arm_with("      axes: [forearm_turn]\n", from, far),
                    Contains("nothing round is near its axis"));
  for (const char* entry : {"{joint: forearm_turn, body: 5}",
                            "{joint: forearm_turn, body: 5, near: [300 mm, 0 mm, 788 mm]}"}) {
    const Cell chosen = arm_with(fmt::format("      axes: [{}]\n", entry), from, far);
    CHECK((places(chosen)[5].position - places(right)[5].position).norm() < 1e-5);
    REQUIRE(chosen.notes().size() == 1);
    CHECK_THAT(chosen.notes()[0].text, Contains(std::string(entry).find("near") == std::string::npos
                                                    ? "boss of 88 mm diameter"
                                                    : "bore of 36 mm diameter"));
  }
  CHECK_THROWS_WITH(arm_with("      axes: [{joint: forearm_turn, body: 2}]\n", from, far),
                    Contains("body 2 has no bore or boss"));
  CHECK_THROWS_WITH(arm_with("      axes: [{joint: forearm_turn}]\n", from, far), Contains("body"));
  CHECK_THROWS_WITH(arm_with("      axes: [wist]\n", "forearm: 390 mm", "forearm: 390 mm"),
                    Contains("unknown turning joint 'wist'") && Contains("waist"));
  CHECK_THROWS_WITH(arm_with("      axes: some\n", "forearm: 390 mm", "forearm: 390 mm"),
                    Contains("axes of bodies 'some'"));
}

TEST_CASE("what can be wrong with an arm's bodies is said where it stands") {
  const Folder folder;
  std::filesystem::copy(DEMO_DIR "/teasel.stl", folder / "teasel.stl");
  const auto refused = [&](const std::string& bodies, const std::string& why) {
    INFO(bodies);
    CHECK_THROWS_WITH(load_cell(folder.write("arm.cell.yaml", demo_arm(bodies))),
                      Contains(why) && Contains("arm.cell.yaml:"));
  };
  const std::string head = "    bodies:\n      file: teasel.stl\n      unit: mm\n";
  refused(head, "links");
  refused(head + "      links: {base: [1]}\n", "bodies 2, 3, 4, 5, 6, 7, 8, 9, 11");
  refused(head + "      links: {bass: [1]}\n", "unknown link 'bass'");
  refused(head + "      links: {base: [1, 1]}\n", "body 1 is given twice, the second time to base");
  refused(head + "      links: {base: [1], turret: [20]}\n",
          "there is no body 20: they are numbered from 1 to 19");
  refused(head + "      links: {base: 1}\n", "numbers of bodies");
  refused(head + "      shape: ball\n      links: {base: [1]}\n", "shape of bodies 'ball'");
  refused(head + "      density: 0 kg/m^3\n      links: {base: [1]}\n", "above zero");
  const std::string base = "      links: {base: [1]}\n";
  refused(head + "      links: {base: [{low: [0 m, 0 m, 0 m], high: [1 mm, 1 mm, 1 mm]}]}\n",
          "no body lies wholly in this box");
  refused(head + "      links: {base: [{low: [1 m, 0 m, 0 m], high: [0 m, 1 m, 1 m]}]}\n",
          "inside out");
  refused(
      head +
          "      links: {base: [{low: [-1 m, -1 m, -1 m], high: [1 m, 1 m, 1 m]}], turret: [{low: "
          "[-1 m, -1 m, -1 m], high: [1 m, 1 m, 1 m]}]}\n",
      "body 1 lies in two boxes, the second one of turret");
  refused(head + "      within: 1 mm\n" + base, "say shape: hulls or shape: simplest");
  refused(head + "      shape: hulls\n      detail: 1 mm\n" + base, "say within:");
  refused(head + "      shape: simplest\n      within: 0 mm\n" + base, "above zero");
  refused(head + "      looks: nice\n" + base, "looks of bodies 'nice'");
  refused(head + "      looks_detail: 1 mm\n" + base, "say looks: mesh");
  refused(head + "      looks_only: [40]\n" + base, "bodies 2, 3");
  refused(head + "      colours: {bass: \"#000000\"}\n      drop_below: 2 m\n" + base,
          "unknown link 'bass'");
  const std::string rest =
      "turret: [3, 4], upper_arm: [2, 7, 8, 12], elbow_block: [6, 9], forearm: [5, 13], wrist: "
      "[11, 15], flange: [14]}\n      leave_out: [16, 17, 18, 19]\n";
  refused(head + "      links: {base: [1], " + rest + "      looks_only: [16]\n",
          "body 16 is left out");
  refused(head + "      links: {base: [1], " + rest +
              "      shapes: [{bodies: [{low: [0 m, 0 m, 0 m], high: [1 mm, 1 mm, 1 mm]}], shape: "
              "mesh}]\n",
          "no body lies wholly in this box");
  refused("    bodies: {file: none.stl, links: {base: [1]}}\n", "none.stl");
  refused("    bodies: {file: teasel.stl, unit: kg, links: {base: [1]}}\n",
          "'kg' is no unit of length");
}
