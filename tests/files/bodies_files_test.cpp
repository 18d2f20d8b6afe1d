// An arm's bodies from several mesh files.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <catch2/catch.hpp>
#include <fstream>
#include <iterator>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/bodies/mesh_inspection.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "support/demo.hpp"
#include "support/folder.hpp"
#include "support/meshes.hpp"

namespace er {
namespace {

using Catch::Matchers::Contains;
using Catch::Matchers::StartsWith;

const std::vector<std::pair<std::string, std::string>> kStartOfLink{
    {"base", "base_"},         {"turret", "turret_"},   {"upper_arm", "upper_arm_"},
    {"elbow_block", "elbow_"}, {"forearm", "forearm_"}, {"wrist", "wrist_"},
    {"flange", "flange"}};

// The demo arm's bodies, a file for each link.
class FilesByLink {
 public:
  FilesByLink() {
    const auto all = read_mesh_file(DEMO_DIR "/teasel.obj", Vector3::Constant(1e-3));
    for (const auto& [link, start] : kStartOfLink) {
      std::vector<Surface> some;
      for (const Surface& one : all)
        if (one.name.starts_with(start)) some.push_back(one);
      folder_.write(link + ".obj", test::as_obj(some));
    }
  }
  [[nodiscard]] Bodies read(const std::vector<std::string>& links) const {
    std::vector<Bodies> files;
    for (const std::string& link : links)
      files.push_back(bodies_of(read_mesh_file(folder_ / (link + ".obj"))));
    return joined(files);
  }
  // The CAD cell with these links and their files.
  [[nodiscard]] Cell load(const std::string& files, const std::string& links) const {
    const std::string text = test::cad_cell_with(
        fmt::format("      file: {}\n      density: 2700 kg/m^3\n      links: {}\n", files, links));
    return load_cell(folder_.write("files.cell.yaml", text));
  }

 private:
  test::Folder folder_;
};

const char* const kFiles =
    "[base.obj, turret.obj, upper_arm.obj, elbow_block.obj, forearm.obj, wrist.obj, flange.obj]";
const char* const kLinks =
    "{base: [base.obj], turret: [turret.obj], upper_arm: [upper_arm.obj], elbow_block: "
    "[elbow_block.obj], forearm: [forearm.obj], wrist: [wrist.obj], flange: [flange.obj]}";

std::vector<std::string> with_ending(std::vector<std::string> links) {
  for (std::string& link : links) link += ".obj";
  return links;
}

}  // namespace

TEST_CASE("an arm from a file for each link is the one from a single file") {
  const FilesByLink files;
  const Arm arm = files.load(kFiles, kLinks).arm("teasel");
  const Arm one = test::cad_arm();
  for (std::size_t l = 0; l < one.links().size(); ++l) {
    INFO(one.links()[l].name);
    CHECK(arm.links()[l].inertial.mass == Approx(one.links()[l].inertial.mass).epsilon(1e-5));
    CHECK((arm.links()[l].inertial.centre - one.links()[l].inertial.centre).norm() < 1e-6);
    for (const Part& part : arm.links()[l].parts) {
      const FileOrigin* origin = origin_of(part.shape);
      REQUIRE(origin != nullptr);
      CHECK(origin->file == one.links()[l].name + ".obj");
      CHECK(origin->bodies.size() == 1);
    }
  }
  // Bodies of files beside files, by numbers that go on from one file to the next.
  const Arm mixed =
      files
          .load(
              "[wrist.obj, base.obj, turret.obj, upper_arm.obj, elbow_block.obj, forearm.obj, "
              "flange.obj]",
              "{wrist: [1, 2], base: [base.obj], turret: [turret.obj], upper_arm: "
              "[upper_arm.obj], elbow_block: [elbow_block.obj], forearm: [forearm.obj], "
              "flange: [flange.obj]}")
          .arm("teasel");
  CHECK(mixed.links()[5].inertial.mass == Approx(arm.links()[5].inertial.mass));
}

TEST_CASE("names of mesh files that are wrong are named") {
  const FilesByLink files;
  CHECK_THROWS_WITH(files.load(kFiles, "{base: [bse.obj]}"),
                    Contains("unknown mesh file 'bse.obj'") && Contains("base.obj"));
  CHECK_THROWS_WITH(files.load("[base.obj, base.obj]", "{base: [base.obj]}"),
                    Contains("'base.obj' is given twice"));
  CHECK_THROWS_WITH(files.load("[]", "{base: [1]}"), Contains("no mesh file is named"));
  CHECK_THROWS_WITH(files.load("[base.obj, turret.obj]", "{base: [base.obj]}"),
                    Contains("of this mesh given to no link"));
  CHECK_THROWS_WITH(files.load("[base.obj, turet.obj]", "{base: [base.obj]}"),
                    Contains("there is no file 'turet.obj'"));
  CHECK_THROWS_WITH(
      files.load("[base.obj, turret.obj]", "{base: [base.obj], turret: [turret.obj, base.obj]}"),
      Contains("is given twice, the second time to turret"));
}

TEST_CASE("files are proposed for links, and their order along the chain is checked") {
  const FilesByLink files;
  const Arm& arm = test::demo_cell().arm("teasel");
  const std::vector<std::string> right{"base",    "turret", "upper_arm", "elbow_block",
                                       "forearm", "wrist",  "flange"};
  const MeshInspection found =
      inspect_mesh(files.read(right), {.files = with_ending(right), .arm = arm});
  CHECK(found.passed());
  CHECK(found.bodies.list.size() == 19);
  CHECK_THAT(found.proposal(), Contains("file: [\"base.obj\", \"turret.obj\"") &&
                                   Contains("upper_arm: [\"upper_arm.obj\"]"));
  const auto mentions = [](const std::vector<std::string>& texts, const std::string& what) {
    for (const std::string& text : texts)
      if (text.find(what) != text.npos) return true;
    return false;
  };
  CHECK_FALSE(mentions(found.odd, "not in the order"));

  const std::vector<std::string> mixed{"base",      "forearm", "turret", "elbow_block",
                                       "upper_arm", "wrist",   "flange"};
  const MeshInspection other =
      inspect_mesh(files.read(mixed), {.files = with_ending(mixed), .arm = arm});
  CHECK(mentions(other.odd,
                 "not in the order of the arm's links, which is: base.obj, turret.obj, "
                 "upper_arm.obj, elbow_block.obj, forearm.obj, wrist.obj, flange.obj"));
}

TEST_CASE("bodies that an arm has on another link than they sit on are found") {
  const FilesByLink files;
  const std::vector<std::string> links{"base",    "turret", "upper_arm", "elbow_block",
                                       "forearm", "wrist",  "flange"};
  const Bodies bodies = files.read(links);
  const Arm right = files.load(kFiles, kLinks).arm("teasel");
  MeshInspectionOptions options{.files = with_ending(links), .arm = right};
  options.given = links_given(bodies, options.files, right);
  CHECK(std::count(options.given.begin(), options.given.end(), -1) == 1);  // the hidden motor
  CHECK(inspect_mesh(bodies, options).passed());

  std::string exchanged = kLinks;
  exchanged.replace(exchanged.find("[upper_arm.obj]"), 15, "[forearm.obj]  ");
  exchanged.replace(exchanged.find("forearm: [forearm.obj]"), 22, "forearm: [upper_arm.obj]");
  options.arm = files.load(kFiles, exchanged).arm("teasel");
  options.given = links_given(bodies, options.files, *options.arm);
  const MeshInspection found = inspect_mesh(bodies, options);
  CHECK_THAT(found.summary(),
             StartsWith("no: what is given to upper_arm sits where forearm is; and 1 more"));
}

}  // namespace er
