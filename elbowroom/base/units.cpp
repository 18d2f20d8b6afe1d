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

}  // namespace

Dimension times(Dimension a, Dimension b, int power) {
  return {.length = a.length + b.length * power,
          .angle = a.angle + b.angle * power,
          .time = a.time + b.time * power,
          .mass = a.mass + b.mass * power};
}

bool is_unit(std::string_view word) {
  return std::any_of(kUnits.begin(), kUnits.end(), [&](const Unit& u) { return u.name == word; });
}

UnitScale unit_named(std::string_view name) {
  for (const Unit& unit : kUnits)
    if (unit.name == name) return {unit.factor, unit.dimension};
  throw unknown_name("unit", name, unit_names());
}

Quantity scaled(double value, const UnitScale& unit) {
  // Exact decimal input should give the nearest double: 350 mm is 350 / 1000, not 350 * 0.001.
  const double inverse = std::round(1.0 / unit.factor);
  const bool divides = unit.factor < 1.0 && inverse * unit.factor == 1.0;
  return {divides ? value / inverse : value * unit.factor, unit.dimension};
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
std::string text_length_unlike(double metres, double other) {
  constexpr int kMostDigits = 6;
  for (int digits = 1; digits <= kMostDigits; ++digits) {
    std::string text = fmt::format("{:.{}f} mm", to_mm(metres), digits);
    if (text != fmt::format("{:.{}f} mm", to_mm(other), digits)) return text;
  }
  return text_length(metres);
}
std::string text_angle(double radians) { return fmt::format("{:.2f} deg", to_deg(radians)); }
std::string text_time(double seconds) { return fmt::format("{:.3f} s", seconds); }

}  // namespace er
