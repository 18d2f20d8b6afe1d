#include "elbowroom/base/text.hpp"

namespace er {

std::vector<std::string> split_at_commas(const std::string& text) {
  std::vector<std::string> items;
  std::size_t start = 0;
  int depth = 0;  // a comma within brackets belongs to a function: min(30 deg, tilt)
  for (std::size_t i = 0; i <= text.size(); ++i) {
    if (i < text.size() && text[i] == '(') ++depth;
    if (i < text.size() && text[i] == ')') --depth;
    if (i < text.size() && (text[i] != ',' || depth > 0)) continue;
    items.emplace_back(trimmed(std::string_view(text).substr(start, i - start)));
    start = i + 1;
  }
  return items;
}

}  // namespace er
