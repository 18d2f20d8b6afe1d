#include "elbowroom/files/cloud_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include "elbowroom/files/document.hpp"
#include "elbowroom/files/find_file.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "elbowroom/model/cloud.hpp"

namespace er {
namespace {

struct Word {
  std::string_view text;
  int column;
};

bool is_between(char c) { return c == ',' || c == ';' || c == ' ' || c == '\t' || c == '\r'; }

void split(std::string_view line, std::vector<Word>& words) {
  words.clear();
  for (std::size_t at = 0; at < line.size();) {
    if (is_between(line[at])) {
      ++at;
      continue;
    }
    std::size_t end = at;
    while (end < line.size() && !is_between(line[end])) ++end;
    words.push_back({line.substr(at, end - at), static_cast<int>(at) + 1});
    at = end;
  }
}

bool as_number(std::string_view text, double& value) {
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  return error == std::errc{} && end == text.data() + text.size();
}

class PointTable {
 public:
  explicit PointTable(const std::filesystem::path& path) : file_(path.string()) {
    const std::string text = read_text(path);
    std::string_view rest = text;
    if (rest.rfind("\xEF\xBB\xBF", 0) == 0) rest.remove_prefix(3);
    while (!rest.empty()) {
      const std::size_t end = std::min(rest.find('\n'), rest.size());
      ++line_;
      read_line(rest.substr(0, end));
      rest.remove_prefix(std::min(end + 1, rest.size()));
    }
    if (points_.empty()) throw InputError("there are no points here", "", {file_, line_, 1});
  }
  std::vector<Vector3> take() { return std::move(points_); }

 private:
  void read_line(std::string_view line) {
    split(line, words_);
    if (words_.empty() || words_.front().text.front() == '#') return;
    double number = 0.0;
    if (points_.empty() && !has_heading_ && !as_number(words_.front().text, number))
      return read_heading();
    if (words_.size() <= *std::max_element(columns_.begin(), columns_.end()))
      throw InputError(fmt::format("expected x, y and z, found {} values", words_.size()), "",
                       {file_, line_, 1});
    Vector3 point;
    for (std::size_t k = 0; k < 3; ++k) {
      const Word& word = words_[columns_[k]];
      double& value = point[static_cast<Eigen::Index>(k)];
      if (!as_number(word.text, value) || !std::isfinite(value))
        throw InputError(fmt::format("expected a number, found '{}'", word.text),
                         "leave out the lines of points that were not seen",
                         {file_, line_, word.column});
    }
    points_.push_back(point);
  }

  void read_heading() {
    has_heading_ = true;
    for (std::size_t k = 0; k < 3; ++k) {
      const std::string_view name = std::array{"x", "y", "z"}[k];
      const auto found = std::find_if(words_.begin(), words_.end(),
                                      [&](const Word& word) { return word.text == name; });
      if (found == words_.end())
        throw InputError(fmt::format("this heading names no column {}", name),
                         "call three of the columns x, y and z, or leave the heading out",
                         {file_, line_, 1});
      columns_[k] = static_cast<std::size_t>(found - words_.begin());
    }
  }

  std::string file_;
  int line_ = 0;
  bool has_heading_ = false;
  std::array<std::size_t, 3> columns_{0, 1, 2};
  std::vector<Word> words_;
  std::vector<Vector3> points_;
};

std::vector<Vector3> points_of(const std::vector<Surface>& surfaces) {
  std::vector<Vector3> out;
  for (const Surface& one : surfaces) out.insert(out.end(), one.corners.begin(), one.corners.end());
  return out;
}

}  // namespace

std::vector<Vector3> read_points(const std::filesystem::path& path) {
  const std::string ending = path.extension().string();
  const bool is_table = ending == ".csv" || ending == ".txt" || ending == ".xyz";
  return is_table ? PointTable(path).take() : points_of(read_mesh_file(path));
}

Cloud read_cloud(const std::string& name, double scale, double radius, const Place& place) {
  std::vector<Vector3> points = read_points(find_file(name, place.file, place));
  for (Vector3& point : points) point *= scale;
  try {
    return cloud_of(std::move(points), radius, {name, Vector3::Constant(scale), {}});
  } catch (const InputError& error) {
    throw InputError(fmt::format("cloud '{}': {}", name, error.message()), error.advice(), place);
  }
}

}  // namespace er
