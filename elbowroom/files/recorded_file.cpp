#include "elbowroom/files/recorded_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <sstream>

#include "elbowroom/base/expression.hpp"
#include "elbowroom/base/text.hpp"
#include "elbowroom/files/document.hpp"

namespace er {
namespace {

// A cell may stand in quotes.
std::string unquoted(std::string_view text) {
  text = trimmed(text);
  if (text.size() >= 2 && text.front() == '"' && text.back() == '"')
    text = trimmed(text.substr(1, text.size() - 2));
  return std::string(text);
}

struct TableCell {
  std::string text;
  Place place;
};

std::vector<TableCell> cells_of(const std::string& line, const std::string& file, int number) {
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

// A table whose first line names columns with units: "x mm", "x (mm)" or "x [mm]".
class UnitTable {
 public:
  UnitTable(const std::filesystem::path& path) : file_(path.string()) {
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

  [[nodiscard]] std::size_t rows() const { return rows_.size(); }
  [[nodiscard]] bool has(const std::string& name) const {
    return columns_.find(name) != columns_.end();
  }
  [[nodiscard]] bool has_unit(const std::string& name) const {
    const std::string& unit = units_[columns_.at(name)];
    return !unit.empty() && unit != "%";
  }
  [[nodiscard]] const Place& heading() const { return headings_.front().place; }
  [[nodiscard]] const Place& place(std::size_t row, const std::string& name) const {
    return rows_[row][columns_.at(name)].place;
  }

  [[nodiscard]] double value(std::size_t row, const std::string& name, Dimension dimension) const {
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

 private:
  void add_heading(const TableCell& cell) {
    std::string text = cell.text;
    std::replace_if(
        text.begin(), text.end(),
        [](char c) { return c == '(' || c == ')' || c == '[' || c == ']'; }, ' ');
    text = std::string(trimmed(text));
    const std::size_t blank = text.find(' ');
    const std::string name = text.substr(0, blank);
    if (name.empty()) throw InputError("a column has no name", "", cell.place);
    if (!columns_.emplace(name, headings_.size()).second)
      throw InputError(fmt::format("the column '{}' stands twice", name), "", cell.place);
    names_.push_back(name);
    units_.push_back(blank == std::string::npos
                         ? ""
                         : std::string(trimmed(std::string_view(text).substr(blank))));
    headings_.push_back(cell);
  }

  void add_row(const std::vector<TableCell>& cells) {
    if (cells.size() != headings_.size())
      throw InputError(
          fmt::format("this line has {} values, the heading {}", cells.size(), headings_.size()),
          "", cells.front().place);
    rows_.push_back(cells);
  }

  std::string file_;
  std::vector<TableCell> headings_;
  std::vector<std::string> names_;
  std::vector<std::string> units_;
  std::map<std::string, std::size_t> columns_;
  std::vector<std::vector<TableCell>> rows_;
};

// The pose in one row; angles are kept as they stand.
RecordedPose pose_in(const UnitTable& table, std::size_t row, const RotationOrder& order) {
  RecordedPose out;
  const auto length = [&](const char* name) { return table.value(row, name, dimension::length); };
  out.pose.position = {length("x"), length("y"), length("z")};
  if (table.has("qw")) {
    const auto number = [&](const char* name) { return table.value(row, name, dimension::number); };
    out.pose.rotation =
        rotation_from_quaternion({number("qw"), number("qx"), number("qy"), number("qz")});
    return out;
  }
  const bool rpy = table.has("roll");
  out.turned = rpy || table.has("a");
  if (!out.turned) return out;
  const auto angle = [&](const char* name) { return table.value(row, name, dimension::angle); };
  out.angles = rpy ? Vector3(angle("roll"), angle("pitch"), angle("yaw"))
                   : Vector3(angle("a"), angle("b"), angle("c"));
  out.has_angles = true;
  out.pose.rotation = rotation_from(rpy ? RotationOrder{} : order, out.angles);
  return out;
}

constexpr std::array<const char*, 6> kTwistColumns{"x", "y", "z", "roll", "pitch", "yaw"};

double deflection_in(const UnitTable& table, std::size_t row, const std::string& name) {
  const double value = table.value(row, name, dimension::number);
  if (std::abs(value) > 1.0)
    throw InputError(fmt::format("a deflection is -1 to 1, found {}", value),
                     fmt::format("give column '{}' a unit if it is a velocity", name),
                     table.place(row, name));
  return value;
}

Twist twist_in(const UnitTable& table, std::size_t row, const StickScale& scale) {
  std::array<double, 6> deflections{};
  Twist twist;
  for (std::size_t i = 0; i < 6; ++i) {
    const std::string name = kTwistColumns[i];
    if (!table.has(name)) continue;
    if (!table.has_unit(name))
      deflections[i] = deflection_in(table, row, name);
    else if (i < 3)
      twist.velocity[static_cast<Eigen::Index>(i)] =
          table.value(row, name, per(dimension::length, 1));
    else
      twist.turning[static_cast<Eigen::Index>(i - 3)] =
          table.value(row, name, per(dimension::angle, 1));
  }
  const Twist by_stick = twist_of_sticks(deflections, scale);
  twist.velocity += by_stick.velocity;
  twist.turning += by_stick.turning;
  return twist;
}

}  // namespace

Recording load_recording(const std::filesystem::path& path, const Arm& arm,
                         const RotationOrder& order) {
  const UnitTable table(path);
  Recording recording;
  recording.order = table.has("roll") ? RotationOrder{} : order;
  for (std::size_t i = 0; i < table.rows(); ++i) {
    RecordedPose row = pose_in(table, i, order);
    row.posture = Posture(arm.dof());
    for (int k = 0; k < arm.dof(); ++k)
      row.posture[k] =
          table.value(i, arm.moving_joint(k).name, value_dimension(arm.moving_joint(k).kind));
    recording.rows.push_back(std::move(row));
  }
  return recording;
}

std::vector<Pose> load_poses(const std::filesystem::path& path, const RotationOrder& order) {
  return load_timed_poses(path, order).poses;
}

TimedPoses load_timed_poses(const std::filesystem::path& path, const RotationOrder& order) {
  const UnitTable table(path);
  TimedPoses out;
  for (std::size_t i = 0; i < table.rows(); ++i) {
    const RecordedPose row = pose_in(table, i, order);
    if (!row.turned)
      throw InputError("these poses have no orientation", "add columns a, b, c or qw, qx, qy, qz",
                       {path.string(), 1, 1});
    out.poses.push_back(row.pose);
    if (table.has("t")) out.times.push_back(table.value(i, "t", dimension::time));
  }
  return out;
}

TwistRecord load_twists(const std::filesystem::path& path, const StickScale& scale, double rate) {
  if (!(rate > 0.0) || !std::isfinite(rate))
    throw InputError("the rate of the rows is above zero a second");
  const UnitTable table(path);
  if (std::none_of(kTwistColumns.begin(), kTwistColumns.end(),
                   [&](const char* name) { return table.has(name); }))
    throw InputError("no column says which way", "name columns x, y, z, roll, pitch or yaw",
                     table.heading());
  TwistRecord record;
  const bool timed = table.has("t");
  double first = 0.0;
  for (std::size_t i = 0; i < table.rows(); ++i) {
    const double time =
        timed ? table.value(i, "t", dimension::time) : static_cast<double>(i) / rate;
    if (i == 0) first = time;
    if (i > 0 && !(time - first > record.times.back()))
      throw InputError(
          fmt::format("the times ascend, found {} s after {} s", time, first + record.times.back()),
          "", table.place(i, "t"));
    record.times.push_back(time - first);
    record.twists.push_back(twist_in(table, i, scale));
  }
  const std::size_t n = record.times.size();
  record.duration =
      record.times.back() + (n > 1 ? record.times.back() - record.times[n - 2] : 1.0 / rate);
  return record;
}

}  // namespace er
