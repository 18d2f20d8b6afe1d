// Plain text tables with aligned columns.
#pragma once

#include <string>
#include <vector>

namespace er {

/// Rows of text under headings. A column whose heading starts with '<' is set flush left (the sign
/// is not printed); the others are set flush right, as figures should be.
class Table {
 public:
  explicit Table(std::vector<std::string> headings);
  /// One cell per heading.
  Table& row(std::vector<std::string> cells);
  /// Two spaces between columns, `indent` before each line, a newline at each end.
  [[nodiscard]] std::string text(int indent = 2) const;

 private:
  std::vector<bool> flush_left_;
  std::vector<std::vector<std::string>> rows_;
};

/// A list after a heading, broken into lines that fit a screen, later lines set in under the first;
/// "none" when it is empty. Ends with a newline.
std::string wrapped_list(const std::string& heading, const std::vector<std::string>& items);

}  // namespace er
