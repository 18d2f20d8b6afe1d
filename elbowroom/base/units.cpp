#include "elbowroom/base/units.hpp"

#include <fmt/format.h>

#include <array>
#include <charconv>
#include <cmath>
#include <vector>

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
    Unit{"s", 1.0, dimension::time},
    Unit{"ms", 1e-3, dimension::time},
    Unit{"min", 60.0, dimension::time},
    Unit{"kg", 1.0, dimension::mass},
    Unit{"g", 1e-3, dimension::mass},
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

void apply_unit(std::string_view text, double& scale, Dimension& dimension) {
  int sign = 1;
  while (true) {
    const auto slash = text.find('/');
    apply_factor(trim(text.substr(0, slash)), sign, scale, dimension);
    if (slash == std::string_view::npos) return;
    text = trim(text.substr(slash + 1));
    sign = -1;
  }
}

}  // namespace

Quantity parse_quantity(std::string_view text) {
  const std::string_view whole = trim(text);
  std::string_view digits = whole;
  if (!digits.empty() && digits.front() == '+') digits.remove_prefix(1);
  double value = 0.0;
  const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), value);
  if (error == std::errc::result_out_of_range)
    throw InputError(fmt::format("'{}' is a number too large or too small to hold", whole));
  if (error != std::errc{})
    throw InputError(fmt::format("expected a number with a unit, found '{}'", whole),
                     "write it like 350 mm, 90 deg or 120 deg/s");
  if (!std::isfinite(value)) throw InputError(fmt::format("'{}' is not a finite number", whole));
  const std::string_view unit = trim(digits.substr(static_cast<std::size_t>(end - digits.data())));
  Quantity quantity{.si = value, .dimension = dimension::number};
  double scale = 1.0;
  if (!unit.empty()) apply_unit(unit, scale, quantity.dimension);
  // Exact decimal input should give the nearest double: 350 mm is 350 / 1000, not 350 * 0.001.
  const double inverse = std::round(1.0 / scale);
  quantity.si = (scale < 1.0 && inverse * scale == 1.0) ? value / inverse : value * scale;
  if (!std::isfinite(quantity.si))
    throw InputError(fmt::format("'{}' is a number too large or too small to hold", whole));
  return quantity;
}

double parse_quantity(std::string_view text, Dimension expected) {
  const Quantity quantity = parse_quantity(text);
  if (quantity.dimension == expected) return quantity.si;
  // Zero is zero in any unit, but a bare 0 is the only number allowed to go without.
  if (quantity.dimension == dimension::number && quantity.si == 0.0) return 0.0;
  const std::string advice = quantity.dimension == dimension::number
                                 ? "add the unit; only 0 may go without one"
                                 : std::string{};
  throw InputError(fmt::format("expected {}, found '{}', which is {}", describe(expected),
                               trim(text), describe(quantity.dimension)),
                   advice);
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
  };
  for (const Entry& entry : kEntries)
    if (entry.dimension == d) return std::string(entry.text);
  return fmt::format("a quantity in m^{} rad^{} s^{} kg^{}", d.length, d.angle, d.time, d.mass);
}

std::string text_length(double metres) { return fmt::format("{:.1f} mm", to_mm(metres)); }
std::string text_angle(double radians) { return fmt::format("{:.2f} deg", to_deg(radians)); }
std::string text_time(double seconds) { return fmt::format("{:.3f} s", seconds); }

}  // namespace er
