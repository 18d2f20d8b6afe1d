#include "elbowroom/files/exchange_file.hpp"

#include <algorithm>
#include <cctype>

#include "elbowroom/base/input_error.hpp"

namespace er {

bool is_exchange_file(const std::filesystem::path& path) {
  std::string ending = path.extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return ending == ".step" || ending == ".stp" || ending == ".iges" || ending == ".igs";
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
