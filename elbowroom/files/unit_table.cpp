#include "elbowroom/files/unit_table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <sstream>

#include "elbowroom/base/expression.hpp"
#include "elbowroom/base/text.hpp"

namespace er {
namespace {

// A cell may stand in quotes.
std::string unquoted(std::string_view text) {
  text = trimmed(text);
  if (text.size() >= 2 && text.front() == '"' && text.back() == '"')
    text = trimmed(text.substr(1, text.size() - 2));
  return std::string(text);
}

}  // namespace

std::vector<UnitTable::TableCell> UnitTable::cells_of(const std::string& line,
                                                      const std::string& file, int number) {
  std::vector<TableCell> cells;
  std::size_t start = 0;
  while (start <= line.size()) {
    const std::size_t end = std::min(line.find(',', start), line.size());
    cells.push_back({unquoted(std::string_view(line).substr(start, end - start)),
                     {file, number, static_cast<int>(start) + 1}});
    start = end + 1;
  }
  return cells;
}

UnitTable::UnitTable(const std::filesystem::path& path) : file_(path.string()) {
  std::istringstream in(read_text(path));
  int number = 0;
  for (std::string line; std::getline(in, line);) {
    ++number;
    if (number == 1 && line.rfind("\xEF\xBB\xBF", 0) == 0) line.erase(0, 3);
    if (trimmed(line).empty() || trimmed(line)[0] == '#') continue;
    const auto cells = cells_of(line, file_, number);
    if (headings_.empty()) {
      for (const TableCell& cell : cells) add_heading(cell);
    } else {
      add_row(cells);
    }
  }
  if (headings_.empty()) throw InputError("the table is empty", "", {file_, 1, 1});
  if (rows_.empty())
    throw InputError("the table has a heading and no rows", "", {file_, number, 1});
}

bool UnitTable::has_unit(const std::string& name) const {
  const std::string& unit = units_[columns_.at(name)];
  return !unit.empty() && unit != "%";
}

double UnitTable::value(std::size_t row, const std::string& name, Dimension dimension) const {
  const auto found = columns_.find(name);
  if (found == columns_.end())
    throw unknown_name("column", name, names_, {file_, heading().line, 1});
  const TableCell& cell = rows_[row][found->second];
  const std::string& unit = units_[found->second];
  try {
    const Quantity plain = parse_quantity(cell.text);
    if (!(plain.dimension == dimension::number)) return parse_quantity(cell.text, dimension);
    if (unit.empty()) return parse_quantity(cell.text, dimension);
    if (unit == "%" && dimension == dimension::number) return 0.01 * plain.si;
    const Quantity quantity = in_unit(plain.si, unit);
    if (quantity.dimension == dimension) return quantity.si;
    throw InputError(fmt::format("column '{}' is in {}, which is {}; expected {}", name, unit,
                                 describe(quantity.dimension), describe(dimension)));
  } catch (const InputError& error) {
    throw error.at(cell.place);
  }
}

void UnitTable::add_heading(const TableCell& cell) {
  std::string text = cell.text;
  std::replace_if(
      text.begin(), text.end(), [](char c) { return c == '(' || c == ')' || c == '[' || c == ']'; },
      ' ');
  text = std::string(trimmed(text));
  const std::size_t blank = text.find(' ');
  const std::string name = text.substr(0, blank);
  if (name.empty()) throw InputError("a column has no name", "", cell.place);
  if (!columns_.emplace(name, headings_.size()).second)
    throw InputError(fmt::format("the column '{}' stands twice", name), "", cell.place);
  names_.push_back(name);
  units_.push_back(
      blank == std::string::npos ? "" : std::string(trimmed(std::string_view(text).substr(blank))));
  headings_.push_back(cell);
}

void UnitTable::add_row(const std::vector<TableCell>& cells) {
  if (cells.size() != headings_.size())
    throw InputError(
        fmt::format("this line has {} values, the heading {}", cells.size(), headings_.size()), "",
        cells.front().place);
  rows_.push_back(cells);
}

}  // namespace er
