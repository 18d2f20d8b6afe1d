#include "elbowroom/files/step_text.hpp"

#include <catch2/catch.hpp>
#include <fstream>
#include <iterator>

#include "elbowroom/base/input_error.hpp"

namespace er {

TEST_CASE("the text of a STEP file is looked over, and what is broken has its place") {
  using Catch::Matchers::Contains;
  const auto with = [](const std::string& data) {
    return "ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n" + data + "ENDSEC;\nEND-ISO-10303-21;\n";
  };
  CHECK_NOTHROW(
      check_step_text(with("#1=A('#9 isn''t one',#2);\n#2 = B(); /* nor is #8 */\n"), "f"));
  std::ifstream in(DEMO_DIR "/teasel.step");
  const std::string demo(std::istreambuf_iterator<char>(in), {});
  CHECK(check_step_text(demo, "teasel.step") == 16);  // the four screws are one

  const auto refused = [](const std::string& text, const std::string& why) {
    CHECK_THROWS_WITH(check_step_text(text, "f"), Contains(why));
  };
  refused(with("#1=A(#2,\n  #3);\n#2=B();\n"), "f:6:3: #3 is not in this file");
  refused(with("#1=A();\n#2=B();\n#1=B();\n"), "f:7:1: #1 is given twice, first in line 5");
  refused(with("#1=A('without an end);\n"), "f:5:7: a text that begins here has no end");
  refused(with("/* #1=A();\n"), "f:5:1: a comment that begins here has no end");
  refused("", "does not begin with ISO-10303-21;");
  refused("solid box\n", "f:1:1: this is no STEP file");
  refused("ISO-10303-21;\nHEADER;\n", "f:3:1: this STEP file is cut short");
}

}  // namespace er
