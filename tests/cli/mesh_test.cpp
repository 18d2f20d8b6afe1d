// inspect of mesh files, driven as a user would.
#include <catch2/catch.hpp>

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
  const Run step = tool("inspect part.step");
  CHECK(step.exit == 2);
  CHECK_THAT(step.err, Contains("CAD exchange file") && Contains("export it as STL"));
  CHECK_THAT(tool("inspect glaze.cell.yaml --unit mm").err,
             Contains("--unit goes with a mesh file, and 'glaze.cell.yaml' is none"));
  CHECK_THAT(tool("inspect teasel.stl --joint elbow").err,
             Contains("--joint goes with a cell file, and 'teasel.stl' is a mesh"));
  CHECK_THAT(tool("inspect teasel.stl --seed 3").err, Contains("--seed goes with a cell file"));
  CHECK_THAT(tool("inspect teasel.stl --arm teasel").err, Contains("add --cell FILE"));
  CHECK_THAT(tool("inspect teasel.stl --unit mm --apart 1").err, Contains("add --out bodies.png"));
  const Run xml = tool("convert cad.cell.yaml --to robot_xml --out '" + (folder / "a.xml") + "'");
  CHECK_THAT(xml.out + xml.err, Contains("single bodies of a mesh file"));
  CHECK_THAT(tool("inspect teasel.stl --unit kg").err, Contains("'kg' is no unit of length"));
  CHECK_THAT(tool("inspect none.stl").err, Contains("there is no such file"));
  const Run broken =
      tool("inspect '" + folder.write("cut.ply", "ply\nformat ascii 1.0\nelement v") + "'");
  CHECK(broken.exit == 2);
  CHECK_THAT(broken.err, Contains("cut.ply") && Contains("cannot be read"));
}
