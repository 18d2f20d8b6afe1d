// Named values, templates, repetition, includes: what a file says once.
#include "elbowroom/files/expansion.hpp"

#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>

#include "elbowroom/files/cell_file.hpp"
#include "support/folder.hpp"

using namespace er;
using Catch::Contains;

namespace {

Cell cell_of(const std::string& body) { return parse_cell("elbowroom: cell/1\n" + body, "c.yaml"); }

std::string expansion_error(const std::string& body) {
  try {
    cell_of(body);
  } catch (const InputError& error) {
    return error.what();
  }
  return "no error";
}

}  // namespace

TEST_CASE("expansion: named values hold everywhere, in any order") {
  const Cell cell = cell_of(R"yaml(
values: {height: 2 * width + 10 mm, width: 40 mm, tilt: 90 deg / 3}
fixtures:
  - name: post
    at: {position: [0 mm, -width, height / 2], rpy: [0, 0, tilt]}
    parts:
      - box: {size: [width, width, height]}
)yaml");
  const Body& post = cell.fixtures()[0];
  CHECK(std::get<Box>(post.parts[0].shape).size == Vector3(0.04, 0.04, 0.09));
  CHECK(post.at.position.z() == Approx(0.045));
  CHECK(rpy_of(post.at.rotation).z() == Approx(3.14159265358979 / 6));
  CHECK(cell.notes().empty());
}

TEST_CASE("expansion: a rack of twenty posts is three lines") {
  const Cell cell = cell_of(R"yaml(
templates:
  post: {needs: [n, x], defaults: {height: 300 mm}, makes: {name: post_(n), at: [x, 0, 0], parts: [{cylinder: {radius: 8 mm, length: height, base: [0, 0, 0]}}]}}
fixtures:
  - each: {n: 1 to 20}
    use: post
    with: {n: n, x: n * 50 mm}
)yaml");
  REQUIRE(cell.fixtures().size() == 20);
  CHECK(cell.fixtures()[0].name == "post_1");
  CHECK(cell.fixtures()[19].name == "post_20");
  CHECK(cell.fixtures()[19].at.position.x() == Approx(1.0));
  CHECK(cell.fixtures()[7].parts[0].at.position.z() == Approx(0.15));
}

TEST_CASE("expansion: grids, lists, ranges with units, keys of one's own") {
  const Cell cell = cell_of(R"yaml(
templates:
  cup:
    needs: [where, shade]
    makes: {at: (where), colour: (shade), mass: 240 g, parts: [{sphere: {radius: 3 cm}}]}
pieces:
  - each: {row: 1 to 2, y: 0 mm to 200 mm by 100 mm}
    makes: {name: "ball_(row)_((y / 100 mm) + min(1, row))", at: [row * 1 m, y, 0], parts: [{sphere: {radius: 1 cm}}]}
  - {use: cup, name: red, with: {where: [1 m, 2 m, 3 m], shade: "#ff0000"}}
  - {use: cup, name: heavy, mass: 1 kg, with: {where: {position: [0, 0, 1 m], rpy: [0, 0, 90 deg]}, shade: "#00ff00"}}
)yaml");
  REQUIRE(cell.pieces().size() == 8);
  CHECK(cell.pieces()[0].name == "ball_1_1");
  CHECK(cell.pieces()[5].name == "ball_2_3");
  CHECK(cell.pieces()[5].at.position == Vector3(2, 0.2, 0));
  CHECK(cell.pieces()[6].at.position == Vector3(1, 2, 3));
  CHECK(cell.pieces()[6].parts[0].colour.red == 1.0);
  CHECK(cell.pieces()[7].mass == 1.0);
  CHECK(cell.pieces()[7].at.rotation(1, 0) == Approx(1.0));
}

TEST_CASE("expansion: templates for links, joints and lists of parts, one within another") {
  const Cell cell = cell_of(R"yaml(
templates:
  servo:
    makes: {axis: [0, 1, 0], range: [-90 deg, 90 deg], velocity: 300 deg/s}
  limb:
    needs: [label, length]
    makes:
      name: (label)
      joint: {use: servo, at: [0, 0, length]}
      parts: [{use: bar, with: {l: length}}]
  bar:
    needs: [l]
    makes: [{box: {size: [20 mm, 20 mm, l], base: [0, 0, 0]}}, {sphere: {radius: 15 mm}}]
arms:
  - name: desk
    links:
      - name: foot
      - {use: limb, with: {label: lower, length: 120 mm}}
      - {use: limb, with: {label: upper, length: 100 mm}}
)yaml");
  const Arm& arm = cell.arm("desk");
  REQUIRE(arm.dof() == 2);
  CHECK(arm.links()[2].name == "upper");
  CHECK(arm.links()[2].parts.size() == 2);
  CHECK(arm.links()[2].joint.origin.position.z() == Approx(0.1));
  CHECK(arm.limits().velocity[1] == Approx(5.235987755982989));
}

TEST_CASE("expansion: an error shows where a template stands and where it was used") {
  const std::string text = R"yaml(templates:
  post:
    needs: [height]
    makes:
      name: post
      parts: [{box: {size: [1 mm, 1 mm, height + 3 deg]}}]
fixtures:
  - {use: post, with: {height: 20 mm}}
)yaml";
  CHECK_THAT(expansion_error(text), Contains("c.yaml:7:41: cannot add a length"));
  CHECK_THAT(expansion_error(text), Contains("in template 'post', used at c.yaml:9:5"));
  CHECK_THAT(expansion_error("values: {a: 2 * b, b: a}\n"),
             Contains("c.yaml:2:") && Contains("is defined by itself in the end"));
  CHECK_THAT(expansion_error("values: {wdth: 2 mm, b: width}\n"),
             Contains("c.yaml:2:25: unknown value 'width'") && Contains("did you mean 'wdth'?"));
  CHECK_THAT(expansion_error("values: {mm: 2 mm}\n"), Contains("'mm' cannot name a value"));
  CHECK_THAT(expansion_error("fixtures: [{use: post}]\n"), Contains("unknown template 'post'"));
  const std::string with_template =
      "templates: {post: {needs: [h], makes: {name: p, parts: []}}}\n";
  CHECK_THAT(expansion_error(with_template + "fixtures: [{use: post}]\n"),
             Contains("c.yaml:3:12: template 'post' needs 'h'"));
  CHECK_THAT(expansion_error(with_template + "fixtures: [{use: post, with: {h: 1, g: 2}}]\n"),
             Contains("unknown key in template 'post' 'g'"));
  CHECK_THAT(expansion_error("templates: {a: {makes: {use: a}}}\nfixtures: [{use: a}]\n"),
             Contains("templates use each other without end"));
  CHECK_THAT(expansion_error("fixtures: [{each: {i: 1 to 1e9}, makes: {}}]\n"),
             Contains("no sensible number of rounds"));
  CHECK_THAT(expansion_error("fixtures: [{each: {i: 0 mm to 9 mm}, makes: {}}]\n"),
             Contains("with units write the step"));
  CHECK_THAT(expansion_error("fixtures: [{each: {i: 1 to 2}, makes: {name: a, parts: []}}]\n"),
             Contains("the name 'a' is used twice"));
}

TEST_CASE("expansion: what nothing uses is noted with its place") {
  const Cell cell = cell_of(R"yaml(
values: {used: 1 mm, lost: 2 mm, through: used * 2}
templates: {idle: {makes: {}}}
fixtures: [{name: a, parts: [{sphere: {radius: through}}]}]
)yaml");
  REQUIRE(cell.notes().size() == 2);
  CHECK(cell.notes()[0].subject == "value 'lost'");
  CHECK(cell.notes()[0].place.text() == "c.yaml:3:22");
  CHECK(cell.notes()[1].subject == "template 'idle'");
}

TEST_CASE(
    "expansion: included files bring values, templates and things, found on the search path") {
  const test::Folder folder;
  folder.write("lib/shared.yaml",
               "elbowroom: shared/1\nvalues: {size: 30 mm}\ntemplates: {cube: {needs: [n], makes: "
               "{name: cube_(n), parts: [{box: {size: [size, size, size]}}]}}}\n");
  folder.write(
      "floor.yaml",
      "elbowroom: cell/1\ninclude: [lib/shared.yaml]\nfixtures: [{use: cube, with: {n: 0}}]\n");
  folder.write("main.yaml",
               "elbowroom: cell/1\nname: main\ninclude: [floor.yaml, lib/shared.yaml]\n"
               "fixtures: [{use: cube, with: {n: 1}}]\n");
  const Cell cell = load_cell(folder / "main.yaml");
  REQUIRE(cell.fixtures().size() == 2);
  CHECK(cell.fixtures()[0].name == "cube_0");
  CHECK(std::get<Box>(cell.fixtures()[1].parts[0].shape).size.x() == 0.03);

  folder.write("far/away.yaml", "elbowroom: shared/1\nvalues: {x: 5 mm}\n");
  folder.write("seeks.yaml",
               "elbowroom: cell/1\ninclude: [away.yaml]\n"
               "fixtures: [{name: a, parts: [{sphere: {radius: x}}]}]\n");
  CHECK_THROWS_WITH(
      load_cell(folder / "seeks.yaml"),
      Contains("seeks.yaml:2:11: there is no file 'away.yaml'") && Contains("ELBOWROOM_PATH"));
  ::setenv("ELBOWROOM_PATH", ("/nowhere:" + (folder / "far")).c_str(), 1);
  CHECK(load_cell(folder / "seeks.yaml").fixtures().size() == 1);
  ::unsetenv("ELBOWROOM_PATH");

  folder.write("a.yaml", "elbowroom: cell/1\ninclude: [b.yaml]\n");
  folder.write("b.yaml", "elbowroom: cell/1\ninclude: [a.yaml]\n");
  CHECK_THROWS_WITH(load_cell(folder / "a.yaml"), Contains("includes itself in the end"));
  folder.write("twice.yaml",
               "elbowroom: cell/1\ninclude: [lib/shared.yaml]\nvalues: {size: 1 mm}\n");
  CHECK_THROWS_WITH(load_cell(folder / "twice.yaml"),
                    Contains("twice.yaml:3:16: 'size' is given here and in an included file"));
  folder.write("targets.yaml", "elbowroom: targets/1\n");
  folder.write("wrong.yaml", "elbowroom: cell/1\ninclude: [targets.yaml]\n");
  CHECK_THROWS_WITH(load_cell(folder / "wrong.yaml"),
                    Contains("only files of kind 'cell/1' or 'shared/1'"));
}
