// What the fuzzers found once, kept: every file of tests/fuzz/finds is read or refused, no more.
#include <catch2/catch.hpp>
#include <filesystem>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/document.hpp"
#include "elbowroom/files/robot_xml.hpp"

using namespace er;

TEST_CASE("what fuzzing found is read or refused") {
  int files = 0;
  for (const auto& entry :
       std::filesystem::directory_iterator(std::filesystem::path(TESTS_DIR) / "fuzz" / "finds")) {
    INFO(entry.path().string());
    const std::string text = read_text(entry.path());
    ++files;
    const bool xml = entry.path().extension() == ".xml";
    try {
      if (xml) {
        const RobotXml robot = parse_robot_xml(text, entry.path().string());
        robot_xml_of(Arm::build({.name = "fuzz", .links = robot.links}));
      } else {
        parse_cell(text, entry.path().string());
      }
      SUCCEED("read");
    } catch (const InputError& error) {
      CHECK_FALSE(error.message().empty());
    }
  }
  CHECK(files > 0);
}
