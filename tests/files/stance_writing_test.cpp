// A stance put into a cell file: read back exactly, and not a character else changed.
#include "elbowroom/files/stance_writing.hpp"

#include <catch2/catch.hpp>
#include <fstream>
#include <sstream>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "support/cells.hpp"

using namespace er;
using Catch::Contains;
using test::values;

namespace {

std::string demo_text(const char* name) {
  std::ifstream in(std::string(DEMO_DIR) + "/" + name);
  std::stringstream text;
  text << in.rdbuf();
  return text.str();
}

const std::string kPlain =
    "elbowroom: cell/1\n# wörds before\narms:\n  - name: lever\n    links:\n      - {name: a}\n"
    "      - {name: b, joint: {axis: [0, 0, 1], range: [-90 deg, 90 deg]}}\n";

}  // namespace

TEST_CASE("a stance is added before the others and reads back exactly") {
  const std::string text = demo_text("glaze.cell.yaml");
  const Cell cell = parse_cell(text, DEMO_DIR "/glaze.cell.yaml");
  const Posture q = values({0.123456789012345, -0.3, 0.5, 1.0 / 3.0, 0.7, -1e-7});
  const std::string out = text_with_stance(text, "glaze", cell.arm("teasel"), "found", q);
  const Cell again = parse_cell(out, DEMO_DIR "/glaze.cell.yaml");
  CHECK(again.arm("teasel").stance("found") == q);
  CHECK(again.arm("teasel").stances().size() == cell.arm("teasel").stances().size() + 1);
  // One line more, the rest as it was.
  const std::size_t at = out.find("found: [");
  const std::size_t end = out.find("home: [", at);
  REQUIRE(end != std::string::npos);
  CHECK(out.substr(0, at) + out.substr(end) == text);
}

TEST_CASE("a stance where there are none, or in one line, or after letters of several bytes") {
  const Arm lever = parse_cell(kPlain).arm("lever");
  const std::string first = text_with_stance(kPlain, "f", lever, "up", values({0.5}));
  const Cell cell = parse_cell(first);
  CHECK(cell.arm("lever").stance("up")[0] == 0.5);
  const std::string second =
      text_with_stance(first, "f", cell.arm("lever"), "down", values({-0.5}));
  CHECK(parse_cell(second).arm("lever").stance("down")[0] == -0.5);
  CHECK(parse_cell(second).arm("lever").stance("up")[0] == 0.5);
  const std::string flow =
      "elbowroom: cell/1\narms: [{name: lever, links: [{name: a}, {name: b, joint: {axis: [0, 0, "
      "1], range: [-90 deg, 90 deg]}}]}]\n";
  const std::string third =
      text_with_stance(flow, "f", parse_cell(flow).arm("lever"), "up", values({0.25}));
  CHECK(parse_cell(third).arm("lever").stance("up")[0] == 0.25);
}

TEST_CASE("stances that cannot be written say what to do, and leave the file alone") {
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  const Arm& arm = cell.arm("teasel");
  const Posture q = arm.stance("home");
  CHECK_THROWS_WITH(save_stance(DEMO_DIR "/glaze.cell.yaml", arm, "home", q),
                    Contains("has a stance 'home' already"));
  CHECK_THROWS_AS(
      text_with_stance(kPlain, "f", parse_cell(kPlain).arm("lever"), "two words", values({0.1})),
      InputError);
  CHECK_THROWS_WITH(text_with_stance(kPlain, "f", arm, "there", q),
                    Contains("arm 'teasel' is not described in f itself") &&
                        Contains("under stances: add there: [0, -20 deg"));
}
