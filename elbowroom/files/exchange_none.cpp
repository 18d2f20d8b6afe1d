// Built in place of exchange_triangles.cpp where CAD exchange files are not to be read.
#include "elbowroom/files/exchange_file.hpp"

namespace er {

bool reads_exchange_files() { return false; }

std::vector<Surface> triangles_of_exchange_file(const std::filesystem::path& path, int /*solids*/) {
  check_reads_exchange_files(path);
  return {};
}

}  // namespace er
