// The examples in the docs are true: they load, and say what they are meant to.
#include <unistd.h>
#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>
#include <sstream>

#include "elbowroom/collision/inspection.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/question_file.hpp"
#include "elbowroom/files/routine_file.hpp"
#include "elbowroom/files/target_file.hpp"
#include "elbowroom/files/waypoint_file.hpp"

#include "elbowroom/reach/reach.hpp"

using namespace er;
namespace fs = std::filesystem;

namespace {

// The YAML blocks of a page in docs/, in order, each in a file of its own.
std::vector<fs::path> examples(const std::string& page) {
  std::ifstream in(std::string(DEMO_DIR) + "/../docs/" + page);
  std::vector<fs::path> files;
  std::ofstream out;
  for (std::string line; std::getline(in, line);) {
    if (line == "```yaml") {
      files.push_back(fs::temp_directory_path() / ("elbowroom_docs_" + std::to_string(::getpid()) +
                                                   std::to_string(files.size())));
      out.open(files.back());
    } else if (line == "```" && out.is_open()) {
      out.close();
    } else if (out.is_open()) {
      out << line << "\n";
    }
  }
  return files;
}

}  // namespace

TEST_CASE("the smallest cell of the docs inspects without a finding but its bare base") {
  const auto files = examples("cell-file.md");
  REQUIRE(files.size() == 8);
  const Inspection found = inspect(load_cell(files[0]));
  for (const fs::path& file : files) fs::remove(file);
  REQUIRE(found.findings.size() == 1);
  CHECK(found.findings[0].subject == "lever.base");
}

TEST_CASE("every cell of the docs loads and says what its page says") {
  const auto files = examples("cell-file.md");
  const fs::path mesh = files[0].parent_path() / "teasel.stl";
  fs::copy_file(DEMO_DIR "/teasel.stl", mesh, fs::copy_options::overwrite_existing);
  std::vector<Cell> cells;
  for (const fs::path& file : files) {
    cells.push_back(load_cell(file));
    fs::remove(file);
    CHECK(cells.back().notes().empty());
  }
  for (const Frame& frame : cells[1].frames())
    CHECK((frame.at.rotation - rotation_about(Vector3::UnitZ(), 90.0_deg)).norm() < 1e-12);
  CHECK(cells[2].fixtures().size() == 20 + 1 + 4);
  CHECK(cells[2].fixtures().back().name == "corner_1_1");
  const Arm& carriage = cells[3].arm("");
  CHECK(carriage.dof() == 3);
  CHECK(carriage.mount().position.z() == 0.8);
  CHECK(cells[4].arm("").tool("hook").tip.position.z() == 0.1);
  CHECK(cells[5].arms().size() == 4);
  CHECK(cells[5].arm("sheet").limits().lower[2] == Approx(-150.0_deg));
  fs::remove(mesh);
  CHECK(cells[6].arm("teasel").links()[2].parts.size() == 4);
  CHECK(cells[7].zones()[0].distance == 0.15);
}

TEST_CASE(
    "targets, waypoints, questions and routines of the docs load, and the routines can be "
    "planned") {
  const auto files = examples("target-and-routine-files.md");
  REQUIRE(files.size() == 8);
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  CHECK(load_targets(files[0], cell).size() == 2);
  const auto targets = load_targets(files[1], cell);
  REQUIRE(targets.size() == 3);
  CHECK(targets[0].requirements().size() == 5);
  CHECK_FALSE(targets[0].requirements()[4].on);
  for (const Target& target : targets) CHECK(reach(CellQuery(cell, "teasel"), target));
  // Beside the waypoints and questions stand the targets that they name.
  const fs::path beside = files[2].parent_path() / "kiln.targets.yaml";
  fs::copy_file(DEMO_DIR "/kiln.targets.yaml", beside, fs::copy_options::overwrite_existing);
  const WaypointList list = load_waypoints(files[2], cell);
  REQUIRE(list.waypoints.size() == 3);
  CHECK(list.waypoints[1].after == Approx(1.2));
  CHECK((*list.waypoints[1].velocity)[0] == Approx(-30.0_deg));
  CHECK(list.waypoints[1].acceleration->isZero());
  CHECK(load_questions(files[3], cell).questions.size() == 6);
  fs::remove(beside);
  const Routine routine = load_routine(files[4], cell);
  const Routine repeated = load_routine(files[5], cell);
  const Routine signals = load_routine(files[6], cell);
  const Cell kiln = load_cell(DEMO_DIR "/kiln.cell.yaml");
  const Routine two_arms = load_routine(files[7], kiln);
  for (const fs::path& file : files) fs::remove(file);
  CHECK(routine.steps[1].name == "down around the cup");
  CHECK(plan_routine(CellQuery(cell, routine.arm), routine));
  CHECK(repeated.steps.size() == 2 * 8 + 1);
  CHECK(plan_routine(CellQuery(cell, repeated.arm), repeated));
  const auto paths = plan_routine(CellQuery(cell, signals.arm), signals);
  REQUIRE(paths);
  CHECK(paths->paths.size() == 2);
  const auto both = plan_routine(CellQuery(kiln, two_arms.arm), two_arms);
  INFO((both ? std::string() : both.reason().text));
  CHECK(both);
}
