#include "elbowroom/base/units.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "elbowroom/base/expression.hpp"
#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

struct Unit {
  std::string_view name;
  double factor;  // to SI
  Dimension dimension;
};

constexpr double kDegree = std::numbers::pi / 180.0;

constexpr std::array kUnits{
    Unit{"m", 1.0, dimension::length},
    Unit{"cm", 1e-2, dimension::length},
    Unit{"mm", 1e-3, dimension::length},
    Unit{"um", 1e-6, dimension::length},
    Unit{"in", 0.0254, dimension::length},
    Unit{"rad", 1.0, dimension::angle},
    Unit{"mrad", 1e-3, dimension::angle},
    Unit{"deg", kDegree, dimension::angle},
    Unit{"turn", 360 * kDegree, dimension::angle},
    Unit{"rpm", 6 * kDegree, per(dimension::angle, 1)},
    Unit{"s", 1.0, dimension::time},
    Unit{"ms", 1e-3, dimension::time},
    Unit{"min", 60.0, dimension::time},
    Unit{"kg", 1.0, dimension::mass},
    Unit{"g", 1e-3, dimension::mass},
    Unit{"N", 1.0, dimension::force},
};

std::vector<std::string> unit_names() {
  std::vector<std::string> names;
  for (const Unit& unit : kUnits) names.emplace_back(unit.name);
  return names;
}

std::string_view trim(std::string_view text) {
  while (!text.empty() && (text.front() == ' ' || text.front() == '\t')) text.remove_prefix(1);
  while (!text.empty() && (text.back() == ' ' || text.back() == '\t')) text.remove_suffix(1);
  return text;
}

Dimension times(Dimension a, Dimension b, int power) {
  return {.length = a.length + b.length * power,
          .angle = a.angle + b.angle * power,
          .time = a.time + b.time * power,
          .mass = a.mass + b.mass * power};
}

const Unit& find_unit(std::string_view name) {
  for (const Unit& unit : kUnits)
    if (unit.name == name) return unit;
  const auto names = unit_names();
  throw unknown_name("unit", name, names);
}

bool is_digit(char c) { return c >= '0' && c <= '9'; }

// One factor of a unit, "mm" or "s^2", applied with `sign` (+1 before the slash, -1 after it).
void apply_factor(std::string_view factor, int sign, double& scale, Dimension& dimension) {
  int power = 1;
  if (const auto caret = factor.find('^'); caret != std::string_view::npos) {
    const std::string_view digits = trim(factor.substr(caret + 1));
    if (digits.size() != 1 || digits[0] < '1' || digits[0] > '9')
      throw InputError(fmt::format("'{}' is not a power from 1 to 9 in unit '{}'", digits, factor));
    power = digits[0] - '0';
    factor = trim(factor.substr(0, caret));
  }
  const Unit& unit = find_unit(factor);
  scale *= std::pow(unit.factor, sign * power);
  dimension = times(dimension, unit.dimension, sign * power);
}

// "deg/s^2", "N m": factors with '/', '*' or a blank between; all after the first '/' divide.
void apply_unit(std::string_view text, double& scale, Dimension& dimension) {
  int sign = 1;
  while (true) {
    text = trim(text);
    std::size_t end = 0;
    while (end < text.size() && text[end] != '/' && text[end] != '*' && text[end] != ' ') ++end;
    // "s ^ 2": a power belongs to its factor, blanks or not.
    for (std::size_t next = end; next < text.size() && (text[next] == ' ' || text[next] == '^');
         ++next)
      if (text[next] == '^')
        for (end = next + 1; end < text.size() && (text[end] == ' ' || is_digit(text[end]));) ++end;
    apply_factor(trim(text.substr(0, end)), sign, scale, dimension);
    text = trim(text.substr(end));
    if (text.empty()) return;
    if (text.front() == '/') sign = -1;
    if (text.front() == '/' || text.front() == '*') text.remove_prefix(1);
  }
}

}  // namespace

bool is_unit(std::string_view word) {
  return std::any_of(kUnits.begin(), kUnits.end(), [&](const Unit& u) { return u.name == word; });
}

Quantity in_unit(double value, std::string_view unit) {
  Quantity quantity{.si = value, .dimension = dimension::number};
  double scale = 1.0;
  apply_unit(unit, scale, quantity.dimension);
  // Exact decimal input should give the nearest double: 350 mm is 350 / 1000, not 350 * 0.001.
  const double inverse = std::round(1.0 / scale);
  quantity.si = (scale < 1.0 && inverse * scale == 1.0) ? value / inverse : value * scale;
  return quantity;
}

Quantity parse_quantity(std::string_view text) { return evaluate(text); }

double parse_quantity(std::string_view text, Dimension expected) {
  return evaluate(text, expected);
}

std::string describe(Dimension d) {
  struct Entry {
    Dimension dimension;
    std::string_view text;
  };
  static constexpr std::array kEntries{
      Entry{dimension::number, "a plain number"},
      Entry{dimension::length, "a length (such as 350 mm)"},
      Entry{dimension::angle, "an angle (such as 90 deg)"},
      Entry{dimension::time, "a time (such as 1.5 s)"},
      Entry{dimension::mass, "a mass (such as 2.5 kg)"},
      Entry{per(dimension::length, 1), "a speed (such as 250 mm/s)"},
      Entry{per(dimension::length, 2), "an acceleration (such as 2 m/s^2)"},
      Entry{per(dimension::length, 3), "a jerk (such as 20 m/s^3)"},
      Entry{per(dimension::angle, 1), "an angular speed (such as 120 deg/s)"},
      Entry{per(dimension::angle, 2), "an angular acceleration (such as 600 deg/s^2)"},
      Entry{per(dimension::angle, 3), "an angular jerk (such as 6000 deg/s^3)"},
      Entry{dimension::force, "a force (such as 80 N)"},
      Entry{dimension::torque, "a torque (such as 12 N m)"},
      Entry{dimension::inertia, "a moment of inertia (such as 0.02 kg m^2)"},
      Entry{dimension::density, "a density (such as 2700 kg/m^3)"},
  };
  for (const Entry& entry : kEntries)
    if (entry.dimension == d) return std::string(entry.text);
  return fmt::format("a quantity in m^{} rad^{} s^{} kg^{}", d.length, d.angle, d.time, d.mass);
}

std::string text_length(double metres) { return fmt::format("{:.1f} mm", to_mm(metres)); }
std::string text_angle(double radians) { return fmt::format("{:.2f} deg", to_deg(radians)); }
std::string text_time(double seconds) { return fmt::format("{:.3f} s", seconds); }

}  // namespace er
