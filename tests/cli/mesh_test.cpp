// inspect of mesh files, driven as a user would.
#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <sstream>

#include "run_tool.hpp"

using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;
using nlohmann::json;

TEST_CASE("inspect: a mesh file is taken apart and held against its arm") {
  const Folder folder;
  const Run run = tool(
      "inspect teasel.stl --unit mm --cell glaze.cell.yaml --density '2700 kg/m^3' "
      "--out '" +
      (folder / "bodies.png") + "'");
  CHECK(run.exit == 0);
  CHECK(first_line(run.out) ==
        "yes: 19 bodies, all closed; 6 of 6 axes are where the mesh has them");
  CHECK_THAT(run.out, Contains("610 by 230 by 816 mm in all") && Contains("closed, a hollow") &&
                          Contains("boss of 116 mm diameter, 124 mm long, of body 6") &&
                          Contains("odd: body 12 might as well belong to upper_arm") &&
                          Contains("        upper_arm: [2, 7, 8]\n") && Contains("bodies.png"));
  CHECK(read_file(folder / "bodies.png").size() > 20000);
  // From elsewhere the proposal still names the file as the cell would.
  CHECK_THAT(tool("inspect ../demo/teasel.stl --unit mm --cell ../demo/glaze.cell.yaml").out,
             Contains("file: \"teasel.stl\""));
  const json answer =
      json::parse(tool("inspect teasel.stl --unit mm --cell glaze.cell.yaml --json").out);
  CHECK(answer["bodies"].size() == 19);
  CHECK(answer["bodies"][9]["inside_of"] == 1);
  CHECK(answer["bodies"][1]["link"] == "upper_arm");
  CHECK(answer["axes"][2]["joint"] == "elbow");
  CHECK(answer["axes"][2]["feature"]["radius"].get<double>() == Approx(0.058));
  CHECK(answer["wrong"].empty());
}

TEST_CASE("inspect: what the list proposes can be pasted into the arm") {
  const Folder folder;
  const std::string proposal = json::parse(
      tool("inspect teasel.stl --unit mm --cell glaze.cell.yaml --json").out)["proposal"];
  std::string cell = read_file(std::string(DEMO_DIR) + "/cad.cell.yaml");
  const std::size_t begin = cell.find("    bodies:");
  cell.replace(begin, cell.find("    stances:") - begin, proposal);
  std::filesystem::copy(std::string(DEMO_DIR) + "/teasel.stl", folder / "teasel.stl");
  const Run run = tool("inspect '" + folder.write("pasted.cell.yaml", cell) + "'");
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, Contains("7 links, 6 moving joints"));
}

TEST_CASE("inspect: a dimension that is wrong in the description is found by the mesh") {
  const Folder folder;
  std::string cell = read_file(std::string(DEMO_DIR) + "/glaze.cell.yaml");
  const std::string before = "elbow_offset: 30 mm above";
  cell.replace(cell.find(before), before.size(), "elbow_offset: 30 mm below");
  const Run run =
      tool("inspect teasel.stl --unit mm --cell '" + folder.write("turned.cell.yaml", cell) + "'");
  CHECK(run.exit == 1);
  CHECK_THAT(
      first_line(run.out),
      StartsWith("no: joint forearm_turn: 60.00 mm off along z; 30 mm from elbow along -z ") &&
          Contains("has the opposite sign by the mesh"));
}

TEST_CASE("inspect: mesh files that are odd, and options that do not go with them") {
  const Folder folder;
  const Run metres = tool("inspect teasel.stl");
  CHECK(metres.exit == 1);
  CHECK_THAT(first_line(metres.out),
             StartsWith("no: it would be 1044") && Contains("is its unit mm?"));
  const Run apart =
      tool("inspect teasel.obj --unit mm --apart 1 --out '" + (folder / "a.png") + "'");
  CHECK(apart.exit == 0);
  CHECK_THAT(apart.out, Contains("base_motor"));
  const Run exact = tool("inspect teasel.step --cell glaze.cell.yaml");
  if (exact.exit == 2) {
    CHECK_THAT(exact.err, Contains("CAD exchange file") && Contains("export it as STL"));
  } else {
    CHECK_THAT(first_line(exact.out), StartsWith("yes: 19 bodies, all closed; 6 of 6 axes"));
    CHECK_THAT(exact.out, Contains("in the unit that it states"));
    CHECK_THAT(exact.out, Contains("file: \"teasel.step\"\n      links:"));
  }
  CHECK_THAT(tool("inspect teasel.step --unit mm").err, Contains("states its own unit"));
  CHECK_THAT(tool("inspect glaze.cell.yaml --unit mm").err,
             Contains("--unit goes with a mesh file, and 'glaze.cell.yaml' is none"));
  CHECK_THAT(tool("inspect teasel.stl --joint elbow").err,
             Contains("--joint goes with a cell file, and 'teasel.stl' is a mesh"));
  CHECK_THAT(tool("inspect teasel.stl --random 3 --seed 3").err,
             Contains("--random goes with a cell file"));
  CHECK_THAT(tool("inspect teasel.stl --arm teasel").err,
             Contains("--arm says nothing without one of") && Contains("--cell"));
  CHECK_THAT(tool("inspect teasel.stl --unit mm --apart 1").err,
             Contains("--apart says nothing without --out"));
  const Run xml = tool("convert cad.cell.yaml --to robot_xml --out '" + (folder / "a.xml") + "'");
  CHECK_THAT(xml.out + xml.err, Contains("single bodies of a mesh file"));
  CHECK_THAT(tool("inspect teasel.stl --unit kg").err, Contains("'kg' is no unit of length"));
  CHECK_THAT(tool("inspect none.stl").err, Contains("there is no such file"));
  const Run broken =
      tool("inspect '" + folder.write("cut.ply", "ply\nformat ascii 1.0\nelement v") + "'");
  CHECK(broken.exit == 2);
  CHECK_THAT(broken.err, Contains("cut.ply") && Contains("cannot be read"));
}

TEST_CASE("inspect: the simplest shapes of the bodies of a mesh, with how far they stand out") {
  const Folder folder;
  const Run run = tool("inspect teasel.stl --unit mm --cell glaze.cell.yaml --within 5mm --out '" +
                       (folder / "shapes.png") + "'");
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, Contains("simplest shape") && Contains(" cylinder ") && Contains(" box ") &&
                          Contains(" hulls ") && Contains("      shape: simplest\n") &&
                          Contains("      within: 5 mm\n"));
  CHECK(read_file(folder / "shapes.png").size() > 20000);
  const json answer = json::parse(tool("inspect teasel.stl --unit mm --within 5mm --json").out);
  for (const json& body : answer["bodies"]) {
    CHECK(body["shape_out"].get<double>() <= 5e-3);
    CHECK(body["shape_adds"].get<double>() >= 0.0);
  }
  CHECK(answer["bodies"][1]["shape"] == "box");
  CHECK(answer["bodies"][2]["shape"] == "cylinder");
  CHECK(tool("inspect teasel.stl --within 0mm").exit == 2);
  CHECK_THAT(tool("inspect glaze.cell.yaml --within 5mm").err,
             Contains("--within goes with a mesh file"));
}

TEST_CASE("route and audit: past a mesh that was simplified, the proof holds") {
  const Folder folder;
  std::string cell = read_file(std::string(DEMO_DIR) + "/measured.cell.yaml");
  const std::string whole = "{file: bucket.ply, unit: mm}";
  const std::size_t at = cell.find(whole);
  REQUIRE(at != cell.npos);
  cell.replace(at, whole.size(), "{file: bucket.ply, unit: mm, detail: 8 mm}");
  const std::string demo = std::string(DEMO_DIR) + "/";
  for (const char* file : {"bucket.ply", "ware.csv"})
    std::filesystem::copy(demo + file, folder / file);
  for (const char* file : {"bracken.cell.yaml", "bracken.arm.yaml"})
    std::filesystem::copy(demo + file, folder / file);
  const std::string name = folder.write("coarse.cell.yaml", cell);
  const std::string route = folder / "route.json";
  const std::string ends =
      " --place '50 mm, 680 mm, 80 mm' --rpy '180 deg, 0, 0' --leave 'turn = free' --clearance '3 "
      "mm'";
  const Run found = tool("route '" + name + "'" + ends + " --out '" + route + "'");
  INFO(found.out << found.err);
  REQUIRE(found.exit == 0);
  const Run audited = tool("audit '" + name + "' '" + route + "'");
  INFO(audited.out << audited.err);
  CHECK(audited.exit == 0);
}

TEST_CASE("inspect: a mesh that lies elsewhere is placed, and the proposal holds") {
  const Folder folder;
  // y up: what was z is y, and what was y is -z.
  std::istringstream obj(read_file(std::string(DEMO_DIR) + "/teasel.obj"));
  std::string turned;
  for (std::string line; std::getline(obj, line);) {
    std::istringstream words(line);
    std::string key;
    double x = 0.0;
    double y = 0.0;
    double z = 0.0;
    if (words >> key && key == "v" && words >> x >> y >> z)
      turned += fmt::format("v {} {} {}\n", x, z + 500.0, -y);
    else
      turned += line + "\n";
  }
  const std::string file = folder.write("up.obj", turned);
  const Run run = tool("inspect '" + file + "' --unit mm --cell glaze.cell.yaml");
  CHECK(run.exit == 1);
  CHECK(first_line(run.out) ==
        "no: the mesh is not in the base frame of teasel: turned by rpy [90 deg, 0 deg, 0 deg], "
        "then moved by [0, 0, -500] mm, it has bores or bosses on 5 of 5 axes");
  CHECK_THAT(run.out, Contains("      at: {position: [0 mm, 0 mm, -500 mm], rpy: [90 deg, 0 deg, 0 "
                               "deg]}\n"));
  const json answer =
      json::parse(tool("inspect '" + file + "' --unit mm --cell glaze.cell.yaml --json").out);
  CHECK(answer["placing"]["matched"] == 5);
  std::string pasted = read_file(std::string(DEMO_DIR) + "/cad.cell.yaml");
  const std::size_t begin = pasted.find("    bodies:");
  std::string proposal = answer["proposal"];
  const std::size_t named = proposal.find("file: ");
  proposal.replace(named, proposal.find('\n', named) - named, "file: up.obj");
  pasted.replace(begin, pasted.find("    tools:") - begin, proposal);
  const Run placed = tool("inspect '" + folder.write("placed.cell.yaml", pasted) + "'");
  INFO(placed.out << placed.err);
  CHECK(placed.exit == 0);
  CHECK_THAT(placed.out, Contains("7 links, 6 moving joints"));
}

TEST_CASE("inspect: a cable that is in pictures alone is said, with how far it reaches") {
  const Run run = tool("inspect cad.cell.yaml");
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out), Contains("0 wrong, 0 missing, 1 odd"));
  CHECK_THAT(run.out,
             Contains("body 20 is in pictures alone, and reaches 65.8 mm beyond what collides of "
                      "link upper_arm"));
}

TEST_CASE("convert: an arm whose axes come from its one-piece mesh is the one that was right") {
  const Folder folder;
  for (const char* file : {"teasel.stl", "cable.stl"})
    std::filesystem::copy(std::string(DEMO_DIR) + "/" + file, folder / file);
  const auto with = [](std::string text, const std::string& from, const std::string& to) {
    text.replace(text.find(from), from.size(), to);
    return text;
  };
  const std::string right = read_file(std::string(DEMO_DIR) + "/cad.cell.yaml");
  const std::string wrong = with(right, "elbow_offset: 30 mm above", "elbow_offset: 24 mm above");
  const std::string mended = with(wrong, "      unit: mm\n", "      unit: mm\n      axes: all\n");
  const std::string original = "' --same-as '" + folder.write("right.cell.yaml", right) + "'";
  const Run same = tool("convert '" + folder.write("mended.cell.yaml", mended) + original);
  CHECK(same.exit == 0);
  CHECK_THAT(first_line(same.out), Contains("are the same arm"));
  const Run other = tool("convert '" + folder.write("wrong.cell.yaml", wrong) + original);
  CHECK(other.exit == 1);
  CHECK_THAT(other.out, Contains("joint forearm_turn: its axis lies 6.0000 mm off"));
}
