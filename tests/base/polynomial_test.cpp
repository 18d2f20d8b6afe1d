#include "elbowroom/base/polynomial.hpp"

#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <vector>

#include "elbowroom/base/random.hpp"

using namespace er;

namespace {

Quintic random_quintic(RandomStream& random, int degree) {
  Quintic c{};
  for (int i = 0; i <= degree; ++i) c[static_cast<std::size_t>(i)] = random.uniform(-2.0, 2.0);
  return c;
}

double by_powers(const Quintic& c, double t) {
  double sum = 0.0;
  for (std::size_t i = 0; i < 6; ++i) sum += c[i] * std::pow(t, static_cast<double>(i));
  return sum;
}

}  // namespace

TEST_CASE("polynomials: values, derivatives, and the same from elsewhere") {
  RandomStream random(11);
  for (int i = 0; i < 200; ++i) {
    const Quintic c = random_quintic(random, i % 6);
    const double t = random.uniform(-1.5, 1.5), by = random.uniform(-1.0, 1.0);
    CHECK(value_at(c, t) == Approx(by_powers(c, t)).margin(1e-12));
    CHECK(value_at(shifted(c, by), t) == Approx(by_powers(c, t + by)).margin(1e-10));
    const ValueAndDerivatives all = all_at(c, t);
    CHECK(all.value == Approx(value_at(c, t)).margin(1e-12));
    CHECK(all.first == Approx(value_at(c, t, 1)).margin(1e-12));
    CHECK(all.second == Approx(value_at(c, t, 2)).margin(1e-11));
    CHECK(all.third == Approx(value_at(c, t, 3)).margin(1e-11));
  }
}

TEST_CASE("polynomials: extremes are those that dense sampling finds, of every degree") {
  RandomStream random(12);
  for (int i = 0; i < 600; ++i) {
    const Quintic c = random_quintic(random, i % 6);
    const double end = random.uniform(0.1, 2.5);
    const Extremes e = extremes_of(c, end);
    double low = 1e9, high = -1e9;
    for (int k = 0; k <= 2000; ++k) {
      const double v = by_powers(c, end * k / 2000);
      low = std::min(low, v);
      high = std::max(high, v);
    }
    CHECK(e.low <= low + 1e-12);
    CHECK(e.high >= high - 1e-12);
    CHECK(e.low >= low - 1e-4);
    CHECK(e.high <= high + 1e-4);
    CHECK(by_powers(c, e.low_at) == Approx(e.low).margin(1e-10));
    CHECK(by_powers(c, e.high_at) == Approx(e.high).margin(1e-10));
    CHECK(bound_over(c, end) >= std::max(high, -low) - 1e-12);
    const double close = bound_over(c, 0.01);
    CHECK(close >= std::max(std::abs(by_powers(c, 0.0)), std::abs(by_powers(c, 0.01))) - 1e-12);
    CHECK(close <= std::max(std::abs(by_powers(c, 0.0)), std::abs(by_powers(c, 0.01))) + 1e-3);
  }
  // A double root of the derivative is no extreme.
  const Extremes flat = extremes_of({0.0, 3.0, -3.0, 1.0, 0.0, 0.0}, 2.0);
  CHECK(flat.low == 0.0);
  CHECK(flat.high == Approx(2.0));
}

TEST_CASE("polynomials: zeros are those that they are multiplied together from") {
  RandomStream random(13);
  int found = 0;
  for (int i = 0; i < 600; ++i) {
    const int degree = 1 + i % 5;
    const double end = random.uniform(0.1, 2.5);
    Quintic c{random.uniform(0.5, 2.0)};
    std::vector<double> within;
    for (int k = 0; k < degree; ++k) {
      const double zero = random.uniform(-1.0, 3.0);
      Quintic times{};
      for (std::size_t power = 0; power < 6; ++power)
        times[power] = (power > 0 ? c[power - 1] : 0.0) - zero * c[power];
      c = times;
      if (zero > 0.0 && zero < end) within.push_back(zero);
    }
    std::sort(within.begin(), within.end());
    bool apart = true;  // near each other, rounding may bring them together
    for (std::size_t k = 1; k < within.size(); ++k) apart &= within[k] - within[k - 1] > 1e-3;
    if (!apart) continue;
    const Roots zeros = zeros_of(c, end);
    REQUIRE(zeros.count == within.size());
    for (std::size_t k = 0; k < within.size(); ++k)
      CHECK(zeros.at[k] == Approx(within[k]).margin(1e-9));
    found += static_cast<int>(within.size());
  }
  CHECK(found > 500);
  CHECK(zeros_of({3.0, 1.0, -1.0, 0.0, 0.0, 0.0}, 1.0).count == 0);
}
