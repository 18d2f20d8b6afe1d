// Writes the arms' kinematics out as headers into a folder, and a list of them for the test: one
// line an arm, ARM(namespace, tools), in the order of arms_in_code().
#include <filesystem>
#include <fstream>
#include <regex>

#include "elbowroom/files/kinematics_code.hpp"
#include "written_code/arms_in_code.hpp"

int main(int, char** arguments) {
  const std::filesystem::path folder = arguments[1];
  std::ofstream list(folder / "arms.inc");
  std::ofstream includes(folder / "includes.inc");
  int number = 0;
  for (const er::Arm& arm : er::test::arms_in_code()) {
    const std::string text = er::kinematics_code_of(arm).text;
    const std::string header = "arm_" + std::to_string(number++) + ".hpp";
    std::ofstream(folder / header) << text;
    includes << "#include \"" << header << "\"\n";

    std::smatch space;
    std::regex_search(text, space, std::regex(R"(namespace (\w+_kinematics) \{)"));
    list << "ARM(" << space[1];
    const std::regex tip_function(R"(inline void (\w+)_frame\()");
    for (std::sregex_iterator it(text.begin(), text.end(), tip_function), end; it != end; ++it)
      list << ", TOOL(" << space[1] << ", " << (*it)[1] << ")";
    list << ")\n";
  }
  return list && includes ? 0 : 1;
}
