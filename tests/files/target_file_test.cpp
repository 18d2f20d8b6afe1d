#include "elbowroom/files/target_file.hpp"

#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/json.hpp"
#include "elbowroom/files/write_file.hpp"
#include "support/cells.hpp"
#include "support/demo.hpp"
#include "support/folder.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;
namespace fs = std::filesystem;

namespace {

template <class Load>
std::string fault(const std::string& text, Load load) {
  const Folder scratch;
  std::ofstream(scratch / "f") << text;
  try {
    load(scratch / "f", demo_cell());
  } catch (const InputError& error) {
    const std::string what = error.what();
    const std::string folder = scratch.path() + "/";
    return what.rfind(folder, 0) == 0 ? what.substr(folder.size()) : what;
  }
  return "no error";
}

std::string targets_fault(const std::string& rest) {
  return fault("elbowroom: targets/1\n" + rest, load_targets);
}

}  // namespace

TEST_CASE("targets take what they do not say from the head of the file, and frames count") {
  const auto targets = load_targets(DEMO_DIR "/kiln.targets.yaml", demo_cell());
  REQUIRE(targets.size() == 18);
  CHECK(targets[1].name() == "upper_2");
  CHECK(targets[1].tool() == "grip");
  CHECK((targets[1].pose().position - Vector3(0.25, -0.625, 0.815)).norm() < 1e-12);
  CHECK((targets[1].pose().rotation * Vector3::UnitZ() + Vector3::UnitY()).norm() <
        1e-12);  // into the kiln
  CHECK(targets[1].full_pose()->position_tolerance == 1e-4);
}

TEST_CASE("faults in target files") {
  CHECK(targets_fault("targets: [{name: a, positon: [0, 0, 0]}]\n")
            .find("f:2:21: unknown key in a target 'positon'\n  did you mean 'position'?") == 0);
  CHECK(targets_fault("targets: [{name: a}]\n") ==
        "f:2:11: target 'a' asks for nothing\n  give it a position, or require:");
  CHECK(targets_fault("tool: grap\ntargets: []\n")
            .find("f:2:7: unknown tool of arm 'teasel' 'grap'\n  did you mean 'grip'?") == 0);
  CHECK(targets_fault("in: bord\ntargets: []\n").find("f:2:5: unknown frame 'bord'") == 0);
  CHECK(targets_fault("arm: bracken\ntargets: []\n").find("f:2:6: unknown arm 'bracken'") == 0);
  CHECK(targets_fault(
            "targets:\n  - {name: a, position: [0, 0, 0]}\n  - {name: a, position: [0, 0, 0]}\n") ==
        "f:4:12: the name 'a' is used twice");
  CHECK(targets_fault("within: {position: 0 mm}\ntargets: []\n") ==
        "f:2:20: a tolerance must be above zero");
  CHECK(fault("elbowroom: cell/1\n", load_targets) ==
        "f:1:12: expected a file of kind 'targets/1', found 'cell/1'");
}

TEST_CASE("a file is written whole or not at all") {
  const Folder scratch;
  write_file(scratch / "a.txt", "first");
  write_file(scratch / "a.txt", "second");
  std::ifstream in(scratch / "a.txt");
  std::string text;
  in >> text;
  CHECK(text == "second");
  CHECK_THROWS_AS(write_file_through(scratch / "a.txt",
                                     [](const fs::path& temporary) {
                                       std::ofstream(temporary) << "half";
                                       throw InputError("broken off");
                                     }),
                  InputError);
  CHECK(scratch.count() == 1);
  std::ifstream again(scratch / "a.txt");
  again >> text;
  CHECK(text == "second");
  CHECK_THROWS_WITH(write_file(scratch / "no/a.txt", "x"),
                    Catch::Contains("does not exist\n  make it first, or write elsewhere"));
  CHECK_THROWS_WITH(write_file(scratch / "", "x"),
                    Catch::Contains("this is a folder; a file name is needed"));
}

TEST_CASE("numbers in a motion table read back as the very same numbers") {
  const Arm arm = test::planar_arm();
  const auto paced = pace({test::values({0.1, 0.2}), test::values({1.0, -0.7})}, arm);
  const std::string csv = motion_csv(paced->motion, arm, 50.0);
  std::istringstream in(csv);
  std::string line;
  std::getline(in, line);
  CHECK(line ==
        "t,base_to_upper_q,upper_to_fore_q,base_to_upper_qd,upper_to_fore_qd,base_to_upper_qdd,"
        "upper_to_fore_qdd");
  int rows = 0;
  double last = -1.0;
  while (std::getline(in, line)) {
    std::istringstream cells(line);
    std::vector<double> numbers;
    for (std::string cell; std::getline(cells, cell, ',');) numbers.push_back(std::stod(cell));
    REQUIRE(numbers.size() == 7);
    const JointState state = paced->motion.at(numbers[0]);
    CHECK(numbers[1] == state.position[0]);
    CHECK(numbers[4] == state.velocity[1]);
    CHECK(numbers[5] == state.acceleration[0]);
    CHECK(numbers[0] > last);
    last = numbers[0];
    ++rows;
  }
  CHECK(last == Approx(paced->motion.duration()).margin(1e-9));
  CHECK(rows == static_cast<int>(std::floor(paced->motion.duration() * 50)) + 2);
  CHECK_THROWS_AS(motion_csv(paced->motion, arm, 0.0), InputError);
}

TEST_CASE("JSON never has a null for a number") {
  CHECK(json_of(std::nan("")) == "\"undefined\"");
  CHECK(json_of(-std::numeric_limits<double>::infinity()) == "\"minus infinite\"");
  CHECK(json_of(0.1) == "0.1");
  CHECK(json_object({{"a", "1"}, {"b", json_of(std::string("x\"y"))}}) ==
        "{\"a\":1,\"b\":\"x\\\"y\"}");
  CHECK(json_joined({"{\"a\":1}", "{\"b\":[2]}"}) == "{\n  \"a\": 1,\n  \"b\": [\n    2\n  ]\n}");
  CHECK(
      json_of(Reason{Cause::no_route, "no: x", {{"tries", 3.0, ""}}, {{"y"}}}) ==
      R"({"cause":"no_route","text":"no: x","figures":[{"name":"tries","value":3.0,"unit":""}],"details":[],"remedies":["y"],"postures":[]})");
}

TEST_CASE("targets of every kind of requirement are read as they are written") {
  const auto targets = load_targets(DEMO_DIR "/bench.targets.yaml", demo_cell());
  REQUIRE(targets.size() == 4);
  CHECK(targets[0].full_pose() == nullptr);
  CHECK(targets[0].first_place()->turn.is_free());
  CHECK((targets[0].first_place()->at.position - Vector3(0.26, 0.51, 0.615)).norm() < 1e-12);
  CHECK(targets[1].clearance() == 0.04);
  CHECK(targets[1].wishes().dexterity == 1.0);
  CHECK(targets[1].requirements()[0].name == "level");
  CHECK(std::get_if<InDirection>(&targets[1].requirements()[0].holds)->angle.upper ==
        Approx(0.0872664626));
  const InSight& sight = *std::get_if<InSight>(&targets[2].requirements()[0].holds);
  CHECK((sight.points.front() - Vector3(0.52, 0.13, 0.432)).norm() < 1e-12);
  CHECK(sight.range.lower == 0.25);
  CHECK(std::get_if<InRoom>(&targets[2].requirements()[1].holds)->whole_link);
  CHECK(targets[3].first_place()->tilt == kAnyTilt);
  CHECK(targets[3].first_place()->standoff.upper == 0.12);
  CHECK_FALSE(targets[3].requirements()[3].on);
}

TEST_CASE("faults in requirements") {
  const auto of_one = [](const std::string& entry) {
    return targets_fault("targets:\n  - name: a\n    require:\n      - " + entry + "\n");
  };
  CHECK_THAT(of_one("{name: b}"), StartsWith("f:5:9: this requirement does not say what it holds"));
  CHECK_THAT(of_one("{distance: {from: [0, 0, 0], range: 1 m}, room: {}}"),
             Contains("one requirement holds one thing, found distance and room"));
  CHECK_THAT(of_one("{of: gripr, distance: {from: [0, 0, 0], range: 1 m}}"),
             StartsWith("f:5:14: unknown tool or link 'gripr'\n  did you mean 'grip'?"));
  CHECK_THAT(of_one("{distance: {in: buket, from: [0, 0, 0], range: 1 m}}"),
             StartsWith("f:5:25: unknown frame 'buket'\n  did you mean 'bucket'?"));
  CHECK_THAT(of_one("{distance: {from: [0, 0, 0], range: [2 m, 1 m]}}"),
             Contains("the wrong way round"));
  CHECK_THAT(of_one("{distance: {from: [0, 0, 0], range: [1 m]}}"),
             Contains("a band has two ends, found 1"));
  CHECK_THAT(of_one("{direction: {axis: w, along: [0, 0, 1]}}"), Contains("'w' is no axis"));
  CHECK_THAT(of_one("{direction: {along: [0, 0, 0]}}"), Contains("points nowhere"));
  CHECK_THAT(of_one("{direction: {}}"), Contains("either along a vector or at a point"));
  CHECK_THAT(of_one("{direction: {rpy: [0, 0, 0], axis: z}}"),
             Contains("a whole orientation is given"));
  CHECK_THAT(of_one("{sight: {point: [0, 0, 0], cone: 5 deg, normal: [0, 0, 1]}}"),
             Contains("normal and incidence belong together"));
  CHECK_THAT(of_one("{joints: {wrist_bnd: [0 deg, 1 deg]}}"),
             Contains("did you mean 'wrist_bend'?"));
  CHECK_THAT(of_one("{joints: {wrist_bend: [200 deg, 210 deg]}}"),
             Contains("leaves joint wrist_bend no value"));
  CHECK_THAT(of_one("{place: {position: [0, 0, 0], x: [-1 mm, 1 mm], standoff: [1 mm, 2 mm]}}"),
             Contains("a standoff with two ends"));
  CHECK_THAT(of_one("{of: flange, meet: {on: ware_board, side: under}}"),
             Contains("unknown side 'under'"));
  CHECK_THAT(targets_fault("targets: [{name: a, turn: free}]\n"),
             Contains("turn belongs to a place, and this target has no position"));
  CHECK_THAT(targets_fault("targets: [{name: a, position: [0, 0, 0], wishes: {travl: 1}}]\n"),
             Contains("did you mean 'travel'?"));
}
