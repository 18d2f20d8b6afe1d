#include "elbowroom/base/expression.hpp"

#include <catch2/catch.hpp>
#include <cmath>
#include <map>
#include <numbers>

#include "elbowroom/base/input_error.hpp"

using namespace er;
using std::numbers::pi;

namespace {

const std::map<std::string, Quantity, std::less<>> kValues{
    {"upper_arm", {0.4, dimension::length}},
    {"half_turn", {pi, dimension::angle}},
    {"n", {3.0, dimension::number}},
};

const NamedValues kNames{
    .find = [](std::string_view name) -> std::optional<Quantity> {
      const auto found = kValues.find(name);
      if (found == kValues.end()) return std::nullopt;
      return found->second;
    },
    .all =
        [] {
          std::vector<std::string> names;
          for (const auto& [name, value] : kValues) names.push_back(name);
          return names;
        },
};

double length(const std::string& text) { return evaluate(text, dimension::length, kNames); }
double angle(const std::string& text) { return evaluate(text, dimension::angle, kNames); }
double number(const std::string& text) { return evaluate(text, dimension::number, kNames); }

std::string error_of(const std::string& text, Dimension expected = dimension::number) {
  try {
    evaluate(text, expected, kNames);
  } catch (const InputError& error) {
    return error.what();
  }
  return "no error";
}

}  // namespace

TEST_CASE("expressions: arithmetic with units and names") {
  CHECK(number("2 + 3 * 4 - 6 / 3") == 12.0);
  CHECK(number("-(2 + 1)^2") == -9.0);
  CHECK(number("2^-1 * 8") == 4.0);
  CHECK(number("10 - 2 - 3") == 5.0);
  CHECK(length("2 * upper_arm - 20 mm") == Approx(0.78));
  CHECK(length("upper_arm / 2 + 0.5 * 10 cm") == Approx(0.25));
  CHECK(length("sqrt((300 mm)^2 + (400 mm)^2)") == Approx(0.5));
  CHECK(length("max(10 mm, upper_arm, 0)") == 0.4);
  CHECK(length("min(1 m, 2 cm) + abs(-3 mm)") == Approx(0.023));
  CHECK(length("upper_arm * cos(60 deg)") == Approx(0.2));
  CHECK(length("(3 + 4) mm") == 0.007);
  CHECK(length("n mm") == 0.003);
  CHECK(angle("asin(1/2) + atan2(1 mm, 1 mm) + acos(1) + atan(0)") == Approx(pi / 6 + pi / 4));
  CHECK(number("half_turn / 90 deg") == Approx(2.0));
  CHECK(number("sin(half_turn / 6) * tan(45 deg)") == Approx(0.5));
}

TEST_CASE("expressions: a unit belongs to the number before it, or to the plain product") {
  CHECK(angle("5*pi/6 rad") == Approx(5 * pi / 6));
  CHECK(angle("1/2 turn") == Approx(pi));
  CHECK(evaluate("300 mm / 2 s", per(dimension::length, 1)) == Approx(0.15));
  CHECK(evaluate("2 * 3 mm * 4 mm", {.length = 2}) == Approx(24e-6));
  CHECK(evaluate("12 N m", dimension::torque) == 12.0);
  CHECK(evaluate("12 N*m", dimension::torque) == 12.0);
  CHECK(evaluate("3 kg * 9.81 m/s^2 * 50 cm", dimension::torque) == Approx(14.715));
  CHECK(evaluate("0.02 kg m^2", dimension::inertia) == 0.02);
  CHECK(evaluate("2700 kg/m^3 * (10 cm)^3", dimension::mass) == Approx(2.7));
  CHECK(evaluate("60 rpm", per(dimension::angle, 1)) == Approx(2 * pi));
  CHECK(evaluate("6 m / min", per(dimension::length, 1)) == Approx(0.1));
}

TEST_CASE("expressions: what they mean is the same whichever way the brackets are written") {
  // Each pair says the same in two ways.
  for (const auto& [a, b] : std::map<std::string, std::string>{
           {"1 - 2 + 3", "(1 - 2) + 3"},
           {"8 / 4 / 2", "(8 / 4) / 2"},
           {"-3 ^ 2", "-(3 ^ 2)"},
           {"2 * -3", "-(2 * 3)"},
           {"6 / 2 * 3", "(6 / 2) * 3"},
           {"n * n ^ 2", "n^3"},
       })
    CHECK(number(a) == number(b));
}

TEST_CASE("expressions: dimensions are checked") {
  CHECK(error_of("1 m + 2") ==
        "cannot add a length (such as 350 mm) and a plain number\n"
        "  add the unit to the plain number");
  CHECK(error_of("1 m - 2 deg").find("cannot subtract a length") == 0);
  CHECK(error_of("sin(30)") ==
        "sin takes an angle (such as 90 deg), found a plain number\n"
        "  add the unit: sin(30 deg)");
  CHECK(error_of("sqrt(2 m)").find("the root of a length") == 0);
  CHECK(error_of("max(1 m, 2 s)").find("cannot take the greatest of") == 0);
  CHECK(error_of("3 mm mm", dimension::length).find("'3 mm mm', which is") != std::string::npos);
  CHECK(error_of("upper_arm mm").find("a second unit") == 0);
  CHECK(error_of("upper_arm * 2", dimension::angle).find("expected an angle") == 0);
}

TEST_CASE("expressions: mistakes are shown with their spot") {
  CHECK(error_of("2 * uper_arm") ==
        "unknown value 'uper_arm'\n  did you mean 'upper_arm'? known: half_turn, n, upper_arm");
  CHECK(error_of("sine(3)").find("unknown function 'sine'\n  did you mean 'sin'?") == 0);
  CHECK(error_of("(2 + 3").find("a closing bracket is missing (character 7 of '(2 + 3')") == 0);
  CHECK(error_of("2 +").find("'2 +' ends too early") == 0);
  CHECK(error_of("2 $ 3").find("'$ 3' is not expected here (character 3") == 0);
  CHECK(error_of("1 / (2 - 2)").find("this divides by zero") == 0);
  CHECK(error_of("0 ^ -1").find("this divides by zero") == 0);
  CHECK(error_of("acos(2)").find("acos(2) does not exist") == 0);
  CHECK(error_of("sqrt(-1)").find("the root of -1 does not exist") == 0);
  CHECK(error_of("atan2(1)").find("atan2 takes 2 values, found 1") == 0);
  CHECK(error_of("2 ^ x").find("a power must be a whole number") == 0);
  CHECK(error_of("2 * mm").find("the unit 'mm' has no number before it") == 0);
  CHECK(error_of("99^99 * 99^99").find("too large") != std::string::npos);
  CHECK(error_of(std::string(5000, '(')).find("too deep") != std::string::npos);
  CHECK(error_of(std::string(5000, '-')).find("too deep") != std::string::npos);
  CHECK(error_of("((1 m)^99)^99").find("far too high") != std::string::npos);
}

TEST_CASE("expressions: names of values") {
  CHECK_NOTHROW(check_value_name("upper_arm2"));
  for (const char* bad : {"", "2nd", "a-b", "a b", "mm", "sin", "pi", "min"})
    CHECK_THROWS_AS(check_value_name(bad), InputError);
}
