#include "elbowroom/route/strokes.hpp"

#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/route/one_stroke.hpp"

using namespace er;
using Catch::Contains;

TEST_CASE("letters are as high as asked, stand beside each other, and every one can be written") {
  const std::string all = "ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789.-+/'";
  double right = 0.0;
  for (const char letter : all) {
    const auto strokes = text_strokes(std::string(1, letter), 0.06);
    double low = 1.0, high = -1.0;
    for (const Stroke& stroke : strokes) {
      REQUIRE(stroke.size() >= 2);
      CHECK(length_of({stroke}) > 0.003);
      for (const auto& point : stroke) {
        low = std::min(low, point.y());
        high = std::max(high, point.y());
        CHECK(point.x() > -0.006);
        CHECK(point.x() < 0.06);
      }
    }
    INFO(letter);
    if (std::isalnum(static_cast<unsigned char>(letter)) != 0) {
      CHECK(high == Approx(0.06).margin(0.003));
      CHECK(low == Approx(0.0).margin(0.0045));
    }
  }
  const auto word = text_strokes("Hi H", 0.06);
  REQUIRE(word.size() == 7);
  for (const Stroke& stroke : word) {
    CHECK(stroke.front().x() >= right - 0.041);
    right = std::max({right, stroke.front().x(), stroke.back().x()});
  }
  CHECK(text_strokes("o", 0.06)[0].size() == text_strokes("O", 0.06)[0].size());
  CHECK_THROWS_WITH(text_strokes("A?", 0.01), Contains("the stroke font has no '?'"));
  CHECK_THROWS_AS(text_strokes("A", 0.0), InputError);
  CHECK_THROWS_AS(text_strokes("  ", 0.01), InputError);
}

TEST_CASE("strokes are cut at corners and nowhere else") {
  const auto d = text_strokes("D", 0.06);
  REQUIRE(d.size() == 1);
  // Up, along the round back (whose ends run on smoothly), and home: corners at the two left ends.
  const auto parts = smooth_parts(d[0]);
  CHECK(parts.size() == 2);
  CHECK(length_of(parts) == Approx(length_of(d)));
  CHECK(smooth_parts(text_strokes("O", 0.06)[0]).size() == 1);
  CHECK(smooth_parts(text_strokes("Z", 0.06)[0]).size() == 3);
  // An ellipse of half axes 2.3 and 3 units of 10 mm, by Ramanujan's formula.
  const double a = 0.023, b = 0.03;
  CHECK(length_of(text_strokes("O", 0.06)) ==
        Approx(std::numbers::pi * (3 * (a + b) - std::sqrt((3 * a + b) * (a + 3 * b))))
            .epsilon(2e-3));
}

TEST_CASE("strokes that meet are put together, and a gap is named with its place") {
  const Stroke whole = in_one_stroke({{{0, 0}, {0.1, 0}},
                                      {{0.1, 0.1}, {0.1, 0}},  // the wrong way round
                                      {{0.2, 0.1}, {0.1, 0.1}},
                                      {{-0.1, 0}, {0, 0}}});  // before the first
  CHECK(whole.size() == 5);
  CHECK(length_of({whole}) == Approx(0.4));
  CHECK_THROWS_WITH(in_one_stroke({{{0, 0}, {0.1, 0}}, {{0.12, 0}, {0.2, 0}}}),
                    Contains("there is a gap of 20.0 mm from (100.0, 0.0) mm to (120.0, 0.0) mm"));
}

TEST_CASE(
    "drawings are fitted to a width, and distances to them are those to their nearest place") {
  const auto fit = fitted({{{2, 5}, {4, 9}}, {{3, 5}, {3, 7}}}, 0.05);
  CHECK((fit[0][0]).norm() < 1e-12);
  CHECK((fit[0][1] - Eigen::Vector2d(0.05, 0.1)).norm() < 1e-12);
  CHECK_THROWS_AS(fitted({{{1, 0}, {1, 2}}}, 0.05), InputError);
  CHECK_THROWS_AS(fitted(fit, -1.0), InputError);
  CHECK(distance_to({{{0, 0}, {1, 0}}, {{0, 1}, {1, 1}}}, {0.5, 0.4}) == Approx(0.4));
  CHECK(distance_to({{{0, 0}, {1, 0}}}, {4, 4}) == Approx(5.0));
}

TEST_CASE("a drawing that branches becomes the shortest stroke that goes over all of it") {
  // A star: out and back along every ray but the two longest.
  RandomStream random(4);
  for (int rays = 3; rays <= 15; ++rays) {
    std::vector<Stroke> star;
    std::vector<double> lengths;
    for (int i = 0; i < rays; ++i) {
      const double turn = 2.0 * std::numbers::pi * i / rays;
      lengths.push_back(random.uniform(0.02, 0.1));
      star.push_back({{0, 0}, lengths.back() * Eigen::Vector2d(std::cos(turn), std::sin(turn))});
    }
    std::sort(lengths.begin(), lengths.end());
    double shortest = 0.0;
    for (int i = 0; i < rays; ++i)
      shortest += (i < rays - 2 ? 2.0 : 1.0) * lengths[static_cast<std::size_t>(i)];
    const double found = length_of({in_one_stroke(star)});
    CHECK(found >= shortest - 1e-12);
    CHECK(found <= (rays <= 12 ? 1.0 + 1e-9 : 1.2) * shortest);
  }
  // Two lines that cross: one half of each, or both halves of one, once more.
  const double half = 0.5 * std::hypot(0.04, 0.06);
  const std::vector<Stroke> lines{{{0, 0}, {0.04, 0.06}}, {{0, 0.06}, {0.04, 0}}};
  CHECK(length_of({in_one_stroke(lines)}) == Approx(6.0 * half));
  // A figure of eight, which crosses itself, as it is.
  CHECK(length_of({in_one_stroke(text_strokes("8", 0.06))}) ==
        Approx(length_of(text_strokes("8", 0.06))).epsilon(1e-6));
  CHECK_THROWS_WITH(in_one_stroke({{{0, 0}, {0.1, 0}}, {{0.05, 0.01}, {0.05, 0.05}}}),
                    Contains("there is a gap of"));
}

TEST_CASE("every letter is written in one stroke from foot to foot, and nothing beside it") {
  const double unit = 0.01;
  const std::string all = "ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789.-+/'";
  for (const char letter : all) {
    INFO(letter);
    const std::vector<Stroke> asked = text_strokes(std::string(1, letter), 6.0 * unit);
    const Stroke whole = text_in_one_stroke(std::string(1, letter), 6.0 * unit);
    for (const Stroke& stroke : asked)
      for (const auto& point : stroke) CHECK(distance_to({whole}, point) <= 0.11 * unit);
    for (const auto& point : whole) CHECK(distance_to(asked, point) <= 0.11 * unit);
    // No more than everything twice.
    CHECK(length_of({whole}) >= length_of(asked) - 0.3 * unit);
    CHECK(length_of({whole}) <= 2.0 * length_of(asked) + 0.3 * unit);
    for (const auto& end : {whole.front(), whole.back()}) {
      double foot = 1.0;
      for (const auto& point : whole) foot = std::min(foot, point.y());
      CHECK(end.y() <= foot + 0.31 * unit);
    }
  }
  // By hand: the stem and both arms of a T there and back; of an H the upper halves alone.
  CHECK(length_of({text_in_one_stroke("T", 0.06)}) == Approx(20 * unit));
  CHECK(length_of({text_in_one_stroke("H", 0.06)}) == Approx(21.6 * unit));
  CHECK(length_of({text_in_one_stroke("L", 0.06)}) == Approx(15.2 * unit));
  CHECK(length_of({text_in_one_stroke("V", 0.06)}) == Approx(4.0 * std::hypot(2.0, 6.0) * unit));
  // From letter to letter along the base line, with a line before and after.
  CHECK(length_of({text_in_one_stroke("LL", 0.06)}) == Approx((2 * 15.2 + 1.6) * unit));
  const Stroke led = text_in_one_stroke("LL", 0.06, 0.02);
  CHECK(led.front().x() == Approx(-0.02));
  CHECK(led.front().y() == Approx(0.0).margin(1e-12));
  CHECK(led.back().x() == Approx(8.0 * unit + 0.02));
}
