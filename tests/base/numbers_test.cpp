// Random streams, polynomials, joint curves and tables.
#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/base/table.hpp"
#include "support/cells.hpp"

using namespace er;
using er::test::values;

TEST_CASE("the random stream is the published generator") {
  // xoshiro256++ from the state 1, 2, 3, 4 begins 41943041, 58720359, ...; here the state comes
  // from splitmix64, whose first value from seed 0 is 0xe220a8397b1dcdaf.
  RandomStream a(0), b(0), c(1);
  CHECK(a.next() == b.next());
  CHECK(a.next() != c.next());
  double sum = 0.0, squares = 0.0;
  for (int i = 0; i < 100000; ++i) {
    const double u = a.uniform();
    REQUIRE(u >= 0.0);
    REQUIRE(u < 1.0);
    sum += u;
    squares += u * u;
  }
  CHECK(sum / 1e5 == Approx(0.5).margin(0.005));
  CHECK(squares / 1e5 == Approx(1.0 / 3.0).margin(0.005));
}

TEST_CASE("the spread sequence fills a box more evenly than chance") {
  SpreadSequence sequence(values({-1.0, 0.0, 2.0}), values({1.0, 5.0, 3.0}));
  std::array<int, 64> cells{};
  for (int i = 0; i < 6400; ++i) {
    const Posture q = sequence.next();
    const auto index = [](double share) {
      return static_cast<std::size_t>(std::min(3.0, 4 * share));
    };
    ++cells[16 * index((q[0] + 1) / 2) + 4 * index(q[1] / 5) + index(q[2] - 2)];
  }
  for (const int count : cells)
    CHECK(std::abs(count - 100) < 30);  // chance would stray past 30 often
}

TEST_CASE("polynomial values and derivatives") {
  const Quintic c{1, -2, 3, -4, 5, -6};
  CHECK(value_at(c, 2.0) == 1 - 4 + 12 - 32 + 80 - 192);
  CHECK(value_at(c, 2.0, 1) == -2 + 12 - 48 + 160 - 480);
  CHECK(value_at(c, 1.0, 3) == -24 + 120 - 360);
  CHECK(value_at(derivative_of(derivative_of(c)), 0.7) == Approx(value_at(c, 0.7, 2)));
}

TEST_CASE("extremes are those a fine grid finds, and never less") {
  RandomStream random(11);
  for (int i = 0; i < 300; ++i) {
    Quintic c{};
    const int degree = random.index(6);
    for (int k = 0; k <= degree; ++k) c[static_cast<std::size_t>(k)] = random.uniform(-1, 1);
    const double end = random.uniform(0.1, 3.0);
    const Extremes e = extremes_of(c, end);
    double low = 1e9, high = -1e9;
    for (int k = 0; k <= 4000; ++k) {
      const double v = value_at(c, end * k / 4000);
      low = std::min(low, v);
      high = std::max(high, v);
    }
    CHECK(e.high >= high - 1e-12);
    CHECK(e.low <= low + 1e-12);
    CHECK(e.high - high < 1e-4);
    CHECK(low - e.low < 1e-4);
    CHECK(value_at(c, e.high_at) == e.high);
    CHECK(value_at(c, e.low_at) == e.low);
  }
}

TEST_CASE("a double root of the derivative is no extreme that is missed") {
  // (t - 0.5)^4: its derivative has a triple root at 0.5.
  const Quintic c{0.0625, -0.5, 1.5, -2.0, 1.0, 0.0};
  const Extremes e = extremes_of(c, 1.0);
  CHECK(e.low == Approx(0.0).margin(1e-15));
  CHECK(e.high == Approx(0.0625));
}

TEST_CASE("curves join, stretch and hold at their ends") {
  const JointCurve line({{2.0, {{0.0, 0.5, 0, 0, 0, 0}}}});
  CHECK(line.at(1.0).position[0] == 0.5);
  CHECK(line.at(-1.0).position[0] == 0.0);
  CHECK(line.at(9.0).position[0] == 1.0);
  const JointCurve slow = line.stretched(4.0);
  CHECK(slow.duration() == 8.0);
  CHECK(slow.at(4.0).position[0] == Approx(0.5));
  CHECK(slow.at(4.0).velocity[0] == Approx(0.125));
  const JointCurve both = line.then(JointCurve({{1.0, {{1.0, 0, 1, 0, 0, 0}}}}));
  CHECK(both.duration() == 3.0);
  CHECK(both.at(2.5).position[0] == Approx(1.25));
  CHECK_THROWS_WITH(line.then(line),
                    "the second curve begins 1 rad (or m) from where the first ends");
  const CurvePiece one{1.0, {Quintic{}}}, two{1.0, {Quintic{}, Quintic{}}}, none{0.0, {Quintic{}}};
  CHECK_THROWS_WITH(JointCurve(std::vector<CurvePiece>{none}),
                    "a stretch of a curve must last longer than zero, found 0 s");
  CHECK_THROWS_AS(JointCurve(std::vector<CurvePiece>{one, two}), InputError);
}

TEST_CASE("tables line up, whatever the alphabet") {
  const std::string text =
      Table({"<name", "mm"}).row({"Ofen-Tür", "1.0"}).row({"x", "100.0"}).text();
  CHECK(text == "  name         mm\n  Ofen-Tür    1.0\n  x         100.0\n");
}

TEST_CASE("polynomials of a stretch: in place up to eight, and as many more as there are") {
  const auto polynomial = [](std::size_t i) {
    return Quintic{static_cast<double>(i), 1, 2, 3, 4, 5};
  };
  for (const std::size_t count : {0U, 1U, 7U, 8U, 9U, 30U}) {
    Quintics all;
    for (std::size_t i = 0; i < count; ++i) all.push_back(polynomial(i));
    REQUIRE(all.size() == count);
    CHECK(all.empty() == (count == 0));
    for (std::size_t i = 0; i < count; ++i) CHECK(all[i] == polynomial(i));
    Quintics copy = all;
    CHECK(copy == all);
    Quintics other(3, polynomial(77));
    other = all;
    CHECK(other == all);
    const Quintics moved = std::move(copy);
    CHECK(moved == all);
    other.resize(count + 2, polynomial(5));
    CHECK(other.size() == count + 2);
    CHECK(other.back() == polynomial(5));
    CHECK_FALSE(other == all);
    other.resize(count);
    CHECK(other == all);
    const Quintics part(all.begin(), all.begin() + static_cast<long>(count / 2));
    CHECK(part.size() == count / 2);
    Quintics twice = part;
    twice.append(part.begin(), part.end());
    CHECK(twice.size() == 2 * part.size());
    if (!part.empty()) CHECK(twice[part.size()] == part.front());
  }
}
