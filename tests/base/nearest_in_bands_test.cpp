#include "elbowroom/base/nearest_in_bands.hpp"

#include <catch2/catch.hpp>
#include <cmath>
#include <limits>

#include "elbowroom/base/random.hpp"

namespace er {
namespace {

LinearBands random_bands(RandomStream& random, int columns, int rows) {
  LinearBands bands;
  bands.columns = columns;
  bands.count = rows;
  for (int i = 0; i < rows; ++i) {
    auto& row = bands.rows[static_cast<std::size_t>(i)];
    for (int k = 0; k < columns; ++k) row.a[static_cast<std::size_t>(k)] = random.uniform(-1, 1);
    row.lower = random.uniform(-1, 0.4);
    row.upper = row.lower + random.uniform(0, 1);
    if (random.index(5) == 0) row.upper = std::numeric_limits<double>::infinity();
    if (random.index(5) == 0) row.lower = -std::numeric_limits<double>::infinity();
  }
  return bands;
}

double value(const LinearBands& bands, int row, const double* x) {
  double sum = 0.0;
  for (int k = 0; k < bands.columns; ++k)
    sum += bands.rows[static_cast<std::size_t>(row)].a[static_cast<std::size_t>(k)] * x[k];
  return sum;
}

// Nearest by alternating projections (Dykstra), which knows nothing of active sets.
std::vector<double> by_projections(const LinearBands& bands, std::vector<double> x) {
  std::vector<std::vector<double>> carried(static_cast<std::size_t>(bands.count),
                                           std::vector<double>(x.size(), 0.0));
  for (int sweep = 0; sweep < 20000; ++sweep)
    for (int i = 0; i < bands.count; ++i) {
      const auto& row = bands.rows[static_cast<std::size_t>(i)];
      auto& memory = carried[static_cast<std::size_t>(i)];
      double square = 0.0;
      std::vector<double> moved = x;
      for (std::size_t k = 0; k < x.size(); ++k) {
        moved[k] += memory[k];
        square += row.a[k] * row.a[k];
      }
      const double v = value(bands, i, moved.data());
      const double by = (std::min(std::max(v, row.lower), row.upper) - v) / square;
      for (std::size_t k = 0; k < x.size(); ++k) {
        x[k] = moved[k] + by * row.a[k];
        memory[k] = moved[k] - x[k];
      }
    }
  return x;
}

TEST_CASE("nearest in bands: the same point as alternating projections, or a proof that holds") {
  RandomStream random(11);
  int found = 0;
  int none = 0;
  for (int round = 0; round < 60; ++round) {
    const int columns = 1 + random.index(4);
    const LinearBands bands = random_bands(random, columns, 2 + random.index(6));
    std::vector<double> wanted;
    for (int k = 0; k < columns; ++k) wanted.push_back(random.uniform(-2, 2));
    NearestInBands out;
    nearest_in_bands(bands, wanted.data(), out);
    REQUIRE(out.outcome != NearestInBands::Outcome::gave_up);
    if (out.outcome == NearestInBands::Outcome::found) {
      ++found;
      for (int i = 0; i < bands.count; ++i) {
        const auto& row = bands.rows[static_cast<std::size_t>(i)];
        CHECK(value(bands, i, out.x.data()) <= row.upper + 1e-11);
        CHECK(value(bands, i, out.x.data()) >= row.lower - 1e-11);
      }
      const auto reference = by_projections(bands, wanted);
      for (int k = 0; k < columns; ++k)
        CHECK(out.x[static_cast<std::size_t>(k)] ==
              Approx(reference[static_cast<std::size_t>(k)]).epsilon(2e-3).margin(1e-4));
      continue;
    }
    ++none;
    double sides = 0.0;
    std::vector<double> sum(static_cast<std::size_t>(columns), 0.0);
    for (int i = 0; i < bands.count; ++i) {
      const auto& row = bands.rows[static_cast<std::size_t>(i)];
      const double m = out.proof[static_cast<std::size_t>(i)];
      if (std::abs(m) < 1e-12) continue;
      sides += m * (m > 0.0 ? row.upper : row.lower);
      for (std::size_t k = 0; k < sum.size(); ++k) sum[k] += m * row.a[k];
    }
    CHECK(sides < 0.0);
    for (const double s : sum) CHECK(std::abs(s) < 1e-9);
  }
  CHECK(found > 10);
  CHECK(none > 5);
}

}  // namespace
}  // namespace er
