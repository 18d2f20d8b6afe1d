#include "elbowroom/base/table.hpp"

#include <algorithm>
#include <cassert>

namespace er {
namespace {

// Columns on the screen: bytes that do not continue a UTF-8 character.
std::size_t width_of(const std::string& text) {
  return static_cast<std::size_t>(std::count_if(text.begin(), text.end(), [](char c) {
    return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U;
  }));
}

}  // namespace

Table::Table(std::vector<std::string> headings) {
  for (std::string& heading : headings) {
    flush_left_.push_back(!heading.empty() && heading[0] == '<');
    if (flush_left_.back()) heading.erase(0, 1);
  }
  rows_.push_back(std::move(headings));
}

Table& Table::row(std::vector<std::string> cells) {
  assert(cells.size() == flush_left_.size());
  rows_.push_back(std::move(cells));
  return *this;
}

std::string Table::text(int indent) const {
  std::vector<std::size_t> widths(flush_left_.size(), 0);
  for (const auto& row : rows_)
    for (std::size_t c = 0; c < row.size(); ++c) widths[c] = std::max(widths[c], width_of(row[c]));
  std::string out;
  for (const auto& row : rows_) {
    std::string line(static_cast<std::size_t>(indent), ' ');
    for (std::size_t c = 0; c < row.size(); ++c) {
      if (c > 0) line += "  ";
      const std::string gap(widths[c] - width_of(row[c]), ' ');
      line += flush_left_[c] ? row[c] + gap : gap + row[c];
    }
    line.erase(line.find_last_not_of(' ') + 1);
    out += line + "\n";
  }
  return out;
}

std::string wrapped_list(const std::string& heading, const std::vector<std::string>& items) {
  constexpr std::size_t kWidth = 110;
  std::string out;
  std::string line = heading;
  for (std::size_t i = 0; i < items.size(); ++i) {
    const std::string item = items[i] + (i + 1 < items.size() ? ", " : "");
    if (line.size() + item.size() > kWidth) {
      out += line.substr(0, line.find_last_not_of(' ') + 1) + "\n";
      line = std::string(heading.size(), ' ');
    }
    line += item;
  }
  return out + line + (items.empty() ? "none\n" : "\n");
}

}  // namespace er
