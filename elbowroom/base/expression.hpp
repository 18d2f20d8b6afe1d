// Arithmetic on quantities, checked for dimension: "2 * upper_arm - 20 mm", "5*pi/6 rad".
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/base/units.hpp"

namespace er {

/// The named values an expression may use.
struct NamedValues {
  /// The value of a name, or nothing when there is no such name.
  std::function<std::optional<Quantity>(std::string_view)> find = {};
  /// All names, for the suggestion in an error.
  std::function<std::vector<std::string>()> all = {};
};

/// Evaluates + - * / ^ (whole powers), brackets, pi, and the functions sin, cos, tan, asin, acos,
/// atan, atan2, sqrt, abs, min, max. Angles are a dimension: sin takes one, asin gives one.
/// A unit belongs to the number before it; after a product or quotient of plain numbers it belongs
/// to the whole of that: 5*pi/6 rad is 150 deg, 300 mm / 2 s is 150 mm/s.
/// Throws InputError (no place) that says what was found and where in the text.
Quantity evaluate(std::string_view text, const NamedValues& names = {});

/// `value` in a unit such as "mm", "deg/s^2" or "N m". Throws InputError for an unknown unit.
Quantity in_unit(double value, std::string_view unit);

/// Metres of one `unit` of length. Throws InputError for what is none.
double metres_in(std::string_view unit);

/// The same, refusing any other dimension than `expected`; only a bare 0 may go without a unit.
double evaluate(std::string_view text, Dimension expected, const NamedValues& names = {});

/// Throws InputError unless `name` can name a value: a letter, then letters, digits and
/// underscores, and neither a unit nor a function nor pi.
void check_value_name(const std::string& name);

}  // namespace er
