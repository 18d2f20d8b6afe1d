#include "elbowroom/files/exchange_file.hpp"

#include <algorithm>
#include <cctype>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

std::string lower_ending(const std::filesystem::path& path) {
  std::string ending = path.extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return ending;
}

}  // namespace

bool is_iges_file(const std::filesystem::path& path) {
  const std::string ending = lower_ending(path);
  return ending == ".iges" || ending == ".igs";
}

bool is_exchange_file(const std::filesystem::path& path) {
  const std::string ending = lower_ending(path);
  return ending == ".step" || ending == ".stp" || is_iges_file(path);
}

void check_reads_exchange_files(const std::filesystem::path& path) {
  if (reads_exchange_files()) return;
  throw InputError(
      "this is a CAD exchange file of exact surfaces, which this build does not read",
      "export it as STL, OBJ, PLY, glTF or COLLADA (a deviation of 0.1 mm will do), or build with "
      "-DELBOWROOM_EXCHANGE=ON, which needs the package libocct-data-exchange-dev",
      {path.string(), 0, 0});
}

}  // namespace er
