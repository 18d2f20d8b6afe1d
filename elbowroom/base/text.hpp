// Small things about text.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace er {

/// Without the blanks, tabs and line ends round it.
constexpr std::string_view trimmed(std::string_view text) {
  constexpr std::string_view kBlanks = " \t\r\n\f\v";
  const std::size_t first = text.find_first_not_of(kBlanks);
  if (first == std::string_view::npos) return {};
  return text.substr(first, text.find_last_not_of(kBlanks) - first + 1);
}

/// Values with commas between, without the spaces around them; commas within brackets stay.
std::vector<std::string> split_at_commas(const std::string& text);

}  // namespace er
