#include "elbowroom/files/find_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>

namespace er {

std::vector<std::filesystem::path> search_path() {
  std::vector<std::filesystem::path> folders;
  const char* variable = std::getenv("ELBOWROOM_PATH");
  const std::string text = variable == nullptr ? "" : variable;
  for (std::size_t start = 0; start < text.size();) {
    const std::size_t end = std::min(text.find(':', start), text.size());
    if (end > start) folders.emplace_back(text.substr(start, end - start));
    start = end + 1;
  }
  return folders;
}

std::filesystem::path find_file(const std::string& name, const std::filesystem::path& from,
                                const Place& place) {
  std::vector<std::filesystem::path> tried;
  const std::filesystem::path wanted(name);
  if (wanted.is_absolute()) {
    tried.push_back(wanted);
  } else {
    tried.push_back(from.parent_path() / wanted);
    for (const auto& folder : search_path()) tried.push_back(folder / wanted);
  }
  std::string looked;
  for (const auto& path : tried) {
    std::error_code code;
    if (std::filesystem::is_regular_file(path, code)) return path;
    looked += (looked.empty() ? "" : ", ") + path.string();
  }
  throw InputError(fmt::format("there is no file '{}'", name),
                   fmt::format("looked for: {}; more folders can be given in ELBOWROOM_PATH, with "
                               "colons between",
                               looked),
                   place);
}

}  // namespace er
