// Tables of comma-separated values whose first line names columns with units.
#pragma once

#include <filesystem>
#include <map>
#include <string>
#include <vector>

#include "elbowroom/files/document.hpp"

namespace er {

/// Headings are "x mm", "x (mm)" or "x [mm]", or a name alone. Lines that begin with # are passed
/// over. Every error has line and column.
class UnitTable {
 public:
  /// Throws InputError when the file cannot be read, has no rows, or rows of the wrong length.
  explicit UnitTable(const std::filesystem::path& path);

  [[nodiscard]] std::size_t rows() const { return rows_.size(); }
  [[nodiscard]] bool has(const std::string& name) const {
    return columns_.find(name) != columns_.end();
  }
  /// Percent is none.
  [[nodiscard]] bool has_unit(const std::string& name) const;
  [[nodiscard]] const Place& heading() const { return headings_.front().place; }
  [[nodiscard]] const Place& place(std::size_t row, const std::string& name) const {
    return rows_[row][columns_.at(name)].place;
  }
  /// In SI. Throws InputError for a column that is not there, what is no number, or of another
  /// dimension.
  [[nodiscard]] double value(std::size_t row, const std::string& name, Dimension dimension) const;

 private:
  struct TableCell {
    std::string text;
    Place place;
  };
  static std::vector<TableCell> cells_of(const std::string& line, const std::string& file,
                                         int number);
  void add_heading(const TableCell& cell);
  void add_row(const std::vector<TableCell>& cells);

  std::string file_;
  std::vector<TableCell> headings_;
  std::vector<std::string> names_;
  std::vector<std::string> units_;
  std::map<std::string, std::size_t> columns_;
  std::vector<std::vector<TableCell>> rows_;
};

}  // namespace er
