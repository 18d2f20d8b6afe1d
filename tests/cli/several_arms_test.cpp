// Routines of several arms and on several paths, as the tool answers them.
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "run_tool.hpp"
#include "support/folder.hpp"
#include "support/sanitized.hpp"

using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;
using Json = nlohmann::json;

TEST_CASE("rehearse: two arms, and a chart of who moves when") {
  const Folder folder;
  const Run run =
      tool("rehearse wheel.cell.yaml band.routine.yaml --rate 100 --out '" + (folder / "when.svg") +
           "' --out '" + (folder / "both.gltf") + "' --motion '" + (folder / "both.csv") + "'");
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, StartsWith("yes: 14 steps of teasel and wheel in ") &&
                          Contains("  arm       begins  step") &&
                          Contains("teasel.brush, wheel.cup_w (they touch)"));
  CHECK_THAT(read_file(folder / "when.svg"), Contains("holds brush") && Contains("arms apart"));
  CHECK_THAT(read_file(folder / "both.gltf"),
             Contains("\"wheel.plate\"") && Contains("\"teasel.forearm\""));
  CHECK_THAT(read_file(folder / "both.csv"),
             StartsWith("t,teasel.waist_q,") && Contains(",wheel.table_q,"));
  const Json answer =
      Json::parse(tool("rehearse wheel.cell.yaml band.routine.yaml --rate 100 --json").out);
  CHECK(answer.at("arms") == Json{"teasel", "wheel"});
  CHECK(answer.at("steps").at(0).at("arm") == "wheel");
  CHECK(answer.at("steps").at(1).at("begins") == answer.at("steps").at(0).at("duration"));
  CHECK(answer.at("paths").empty());
  if (kSanitized) return;  // five plans, which take long there
  const Run profiles = tool("rehearse wheel.cell.yaml band.routine.yaml --profiles");
  CHECK(profiles.exit == 0);
  CHECK_THAT(profiles.out, StartsWith("yes: time-optimal is the quickest"));
}

TEST_CASE("rehearse: every path of a routine that hangs on a signal, and one of them shown") {
  const Run run = tool("rehearse glaze.cell.yaml shelf.routine.yaml --rate 100");
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, StartsWith("yes: on each of 2 paths, in ") && Contains("  wet: yes ") &&
                          Contains("  wet: no ") && Contains("where wet: yes:\nyes: 10 steps"));
  const Run dry =
      tool("rehearse glaze.cell.yaml shelf.routine.yaml --rate 100 --signal 'wet = no'");
  CHECK_THAT(dry.out, Contains("where wet: no:\nyes: 9 steps"));
  const Run one =
      tool("rehearse glaze.cell.yaml shelf.routine.yaml --rate 100 --signal 'wet = no' --step 10");
  CHECK_THAT(one.out, Contains("yes: 1 step in "));
  const Json answer =
      Json::parse(tool("rehearse glaze.cell.yaml shelf.routine.yaml --rate 100 --json").out);
  REQUIRE(answer.at("paths").size() == 2);
  CHECK(answer.at("paths").at(1).at("signals").at("wet") == false);
  CHECK(answer.at("paths").at(1).at("passed") == true);

  const auto refused = [](const std::string& more, const std::string& what) {
    const Run bad = tool("rehearse glaze.cell.yaml shelf.routine.yaml " + more);
    CHECK(bad.exit == 2);
    CHECK_THAT(bad.err, Contains(what));
  };
  refused("--signal 'wte = no'", "unknown signal of this routine 'wte'");
  refused("--signal 'wet = 3'", "'3' is neither yes nor no");
  refused("--signal 'wet = no' --signal 'wet = yes'", "no path goes that way");
  refused("--signal 'wet = no' --step 5", "there is no step 5");
  // Without room on the upper shelf the dry cup goes to the lower one, and the answer says why.
  const Folder folder;
  std::string cell = read_file(std::string(DEMO_DIR) + "/glaze.cell.yaml");
  const std::string shelf = "shelf_top: 360 mm";
  cell.replace(cell.find(shelf), shelf.size(), "shelf_top: 440 mm");
  const Run high = tool("rehearse '" + folder.write("high.cell.yaml", cell) +
                        "' shelf.routine.yaml --rate 100 --signal 'wet = no'");
  CHECK(high.exit == 0);
  CHECK_THAT(high.out,
             Contains("yes, by an on_no") &&
                 Contains("instead of 'carry cup_2', what its on_no says: step 10 of 18"));
}
