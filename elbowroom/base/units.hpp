// Quantities with units. Inside the library every number is SI (metre, radian, second, kilogram);
// units exist only at the edges: in files, on the command line, in printed text, and as literals.
#pragma once

#include <numbers>
#include <string>
#include <string_view>

namespace er {

/// One turn, rad.
inline constexpr double kTurn = 2.0 * std::numbers::pi;

/// Exponents of metre, radian, second and kilogram. An angle counts as a dimension of its own, so
/// that degrees cannot pass for a plain number.
struct Dimension {
  int length = 0;
  int angle = 0;
  int time = 0;
  int mass = 0;
  constexpr bool operator==(const Dimension&) const = default;
};

namespace dimension {
inline constexpr Dimension number{};
inline constexpr Dimension length{.length = 1};
inline constexpr Dimension angle{.angle = 1};
inline constexpr Dimension time{.time = 1};
inline constexpr Dimension mass{.mass = 1};
inline constexpr Dimension force{.length = 1, .time = -2, .mass = 1};
inline constexpr Dimension torque{.length = 2, .time = -2, .mass = 1};
inline constexpr Dimension inertia{.length = 2, .mass = 1};
inline constexpr Dimension density{.length = -3, .mass = 1};
}  // namespace dimension

/// The dimension of the n-th time derivative: per(length, 1) is a velocity.
constexpr Dimension per(Dimension what, int times) {
  what.time -= times;
  return what;
}

/// The dimension of a quantity of dimension `a` times one of `b` to a power.
Dimension times(Dimension a, Dimension b, int power);

/// A value in SI units and what it measures.
struct Quantity {
  double si = 0.0;
  Dimension dimension;
};

/// Reads "350 mm", "-90 deg", "2.5 kg", "120 deg/s", "12 N m", a plain number, or arithmetic on
/// such (base/expression.hpp). Throws InputError (no place) for an unknown unit, no number, NaN,
/// infinity or a number that a double cannot hold.
Quantity parse_quantity(std::string_view text);

/// The same, refusing any other dimension: a length where an angle belongs is an error that says
/// what was found and what was expected. Returns SI.
double parse_quantity(std::string_view text, Dimension expected);

/// True for the name of a unit: mm, deg, N, ...
bool is_unit(std::string_view word);

/// What a unit stands for: so many SI units of a dimension.
struct UnitScale {
  double factor = 1.0;
  Dimension dimension;
};

/// One unit by its name. Throws InputError that suggests the nearest.
UnitScale unit_named(std::string_view name);

/// `value` in a unit, rounded once: 350 mm is the double nearest to 0.35.
Quantity scaled(double value, const UnitScale& unit);

/// What a dimension is called, with an example: "an angle (such as 90 deg)".
std::string describe(Dimension dimension);

/// Text for people, in drawing units: "83.0 mm", "131.00 deg", "1.250 s".
std::string text_length(double metres);
std::string text_angle(double radians);
/// A length with as many digits, up to a nanometre, as it takes to look unlike another one:
/// "4.9997 mm" where 5.0 mm are asked for.
std::string text_length_unlike(double metres, double other);
std::string text_time(double seconds);

constexpr double to_mm(double metres) { return metres * 1e3; }
constexpr double to_deg(double radians) { return radians * (180.0 / std::numbers::pi); }

inline namespace literals {
constexpr double operator""_m(long double v) { return static_cast<double>(v); }
constexpr double operator""_mm(long double v) { return static_cast<double>(v) * 1e-3; }
constexpr double operator""_rad(long double v) { return static_cast<double>(v); }
constexpr double operator""_deg(long double v) {
  return static_cast<double>(v) * (std::numbers::pi / 180.0);
}
constexpr double operator""_s(long double v) { return static_cast<double>(v); }
constexpr double operator""_kg(long double v) { return static_cast<double>(v); }
}  // namespace literals

}  // namespace er
