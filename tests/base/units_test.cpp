#include "elbowroom/base/units.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"

using namespace er;

namespace {

std::string quantity_error(const std::string& text, Dimension expected) {
  try {
    parse_quantity(text, expected);
  } catch (const InputError& error) {
    return error.what();
  }
  return "no error";
}

}  // namespace

TEST_CASE("quantities are read exactly, in SI") {
  CHECK(parse_quantity("350 mm", dimension::length) == 0.35);
  CHECK(parse_quantity("350mm", dimension::length) == 0.35);
  CHECK(parse_quantity("  -2.5 kg ", dimension::mass) == -2.5);
  CHECK(parse_quantity("1e3 g", dimension::mass) == 1.0);
  CHECK(parse_quantity("+1 in", dimension::length) == 0.0254);
  CHECK(parse_quantity("90 deg", dimension::angle) == Approx(1.5707963267948966).epsilon(1e-15));
  CHECK(parse_quantity("0.5 turn", dimension::angle) == Approx(3.14159265358979).epsilon(1e-14));
  CHECK(parse_quantity("120 deg/s", per(dimension::angle, 1)) == Approx(2.0943951023931953));
  CHECK(parse_quantity("600 mm/s^2", per(dimension::length, 2)) == Approx(0.6));
  CHECK(parse_quantity("3 rad/s^3", per(dimension::angle, 3)) == 3.0);
  CHECK(parse_quantity("6 m/min", per(dimension::length, 1)) == Approx(0.1));
  CHECK(parse_quantity("7", dimension::number) == 7.0);
}

TEST_CASE("only a bare zero goes without a unit") {
  CHECK(parse_quantity("0", dimension::length) == 0.0);
  CHECK(parse_quantity("-0.0", dimension::angle) == 0.0);
  CHECK(quantity_error("0.4", dimension::length) ==
        "expected a length (such as 350 mm), found '0.4', which is a plain number\n"
        "  add the unit; only 0 may go without one");
  CHECK(quantity_error("0 deg", dimension::length) ==
        "expected a length (such as 350 mm), found '0 deg', which is an angle (such as 90 deg)");
}

TEST_CASE("what is no quantity is refused with what to write") {
  CHECK(quantity_error("90 deg", dimension::length) ==
        "expected a length (such as 350 mm), found '90 deg', which is an angle (such as 90 deg)");
  CHECK(
      quantity_error("90 degs", dimension::angle) ==
      "unknown unit 'degs'\n  did you mean 'deg'? known: m, cm, mm, um, in, rad, mrad, deg, turn, "
      "rpm, s, ms, min, kg, g, N");
  CHECK(quantity_error("long", dimension::length) ==
        "expected a number with a unit, found 'long'\n  write it like 350 mm, 90 deg or 120 deg/s");
  CHECK(quantity_error("", dimension::length).find("found ''") != std::string::npos);
  CHECK(quantity_error("nan m", dimension::length) == "'nan m' is not a finite number");
  CHECK(quantity_error("-inf m", dimension::length) == "'-inf m' is not a finite number");
  CHECK(quantity_error("1e999 m", dimension::length) ==
        "'1e999 m' is a number too large or too small to hold");
  CHECK(quantity_error("1e308 turn", dimension::angle) ==
        "'1e308 turn' is a number too large or too small to hold");
  CHECK(quantity_error("3 m/s^x", per(dimension::length, 2)) ==
        "'x' is not a power from 1 to 9 in unit 's^x'");
}

TEST_CASE("text for people carries its unit") {
  CHECK(text_length(0.083) == "83.0 mm");
  CHECK(text_angle(1.0) == "57.30 deg");
  CHECK(text_length_unlike(0.0031, 0.005) == "3.1 mm");
  CHECK(text_length_unlike(0.0049997, 0.005) == "4.9997 mm");
  CHECK(text_length_unlike(0.005, 0.005) == "5.0 mm");
  CHECK(text_time(1.25) == "1.250 s");
  CHECK(describe(per(dimension::angle, 2)) == "an angular acceleration (such as 600 deg/s^2)");
  CHECK(describe({.length = 3, .mass = 1}) == "a quantity in m^3 rad^0 s^0 kg^1");
}

TEST_CASE("literals are SI") {
  CHECK(5.0_mm == 0.005);
  CHECK(180.0_deg == Approx(3.14159265358979));
  CHECK(2.0_kg == 2.0);
}

TEST_CASE("the nearest name is suggested only when it is near") {
  const std::vector<std::string> known{"home", "over_board", "over_bucket"};
  CHECK(nearest_name("hmoe", known) == "home");
  CHECK(nearest_name("over_bord", known) == "over_board");
  CHECK(nearest_name("kiln", known).empty());
  CHECK(std::string(unknown_name("stance", "kiln", known).what()) ==
        "unknown stance 'kiln'\n  known: home, over_board, over_bucket");
  CHECK(std::string(unknown_name("tool", "grip", {}).what()) ==
        "unknown tool 'grip'\n  there is no tool here at all");
}

TEST_CASE("an error says as much of its place as is known") {
  CHECK(std::string(InputError("wrong", "fix it", {"a.yaml", 3, 7}).what()) ==
        "a.yaml:3:7: wrong\n  fix it");
  CHECK(std::string(InputError("wrong", "", {"a.yaml", 3, 0}).what()) == "a.yaml:3: wrong");
  CHECK(std::string(InputError::about("links[2].name", "wrong").what()) == "links[2].name: wrong");
  CHECK(InputError::about("links[2]", "wrong").at({"a.yaml", 1, 2}).place().line == 1);
}
