// Sines, cosines and angles in vector lanes, on every instruction set of the machine.
#include <catch2/catch.hpp>
#include <cmath>
#include <cstdint>
#include <limits>
#include <vector>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/instruction_set.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/base/sines.hpp"
#include "support/instruction_sets.hpp"
#include "support/lane_probe.hpp"

using namespace er;

TEST_CASE("lanes: sines and cosines are those of long double, and the same bits on every set") {
  RandomStream random(3);
  std::vector<double> angles{0.0, -0.0, 1e-300, M_PI, -M_PI, M_PI_2, 3 * M_PI_2, 1e6, -1e6, 5e8};
  for (int i = 0; i < 4003; ++i) angles.push_back(random.uniform(-7, 7));
  for (int i = 0; i < 1000; ++i) angles.push_back(random.uniform(-1e6, 1e6));
  for (int k = -40; k < 40; ++k) angles.push_back(std::nextafter(k * M_PI_2, 9.0));
  const int count = static_cast<int>(angles.size());
  std::vector<double> first_sines;
  test::on_each_instruction_set([&](const std::string& name) {
    INFO(name);
    std::vector<double> sines(angles.size()), cosines(angles.size());
    sines_and_cosines(angles.data(), count, sines.data(), cosines.data());
    double worst = 0.0;
    for (std::size_t i = 0; i < angles.size(); ++i) {
      const auto x = static_cast<long double>(angles[i]);
      worst = std::max(worst, std::abs(static_cast<double>(std::sin(x) - sines[i])));
      worst = std::max(worst, std::abs(static_cast<double>(std::cos(x) - cosines[i])));
    }
    CHECK(worst < 2.3e-16);
    if (first_sines.empty()) first_sines = sines;
    CHECK(first_sines == sines);
  });
}

TEST_CASE("lanes: the angle of a point is atan2") {
  RandomStream random(4);
  std::vector<double> xs{0, 1, -1, 0, 0, 1e-200, -1e200, 1}, ys{0, 0, 0, 1, -1, 1e-200, 1e-9, -0.0};
  for (int i = 0; i < 5001; ++i) {
    const double size = std::exp(random.uniform(-20, 20));
    xs.push_back(size * random.uniform(-1, 1));
    ys.push_back(size * random.uniform(-1, 1));
  }
  test::on_each_instruction_set([&](const std::string& name) {
    INFO(name);
    std::vector<double> angles(xs.size());
    test::angles_of_points(ys.data(), xs.data(), static_cast<int>(xs.size()), angles.data());
    double worst = 0.0;
    for (std::size_t i = 1; i < xs.size(); ++i)
      worst = std::max(worst, std::abs(angles[i] - std::atan2(ys[i], xs[i])));
    CHECK(worst < 5e-16);
    CHECK(angles[0] == 0.0);
  });
}

TEST_CASE("lanes: a set that there is not is refused by name") {
  const std::string before = instruction_set();
  try {
    pin_instruction_set("avx");
    FAIL("taken");
  } catch (const InputError& error) {
    CHECK(error.message().find("avx") != std::string::npos);
    CHECK(std::string(error.what()).find("scalar") != std::string::npos);
  }
  CHECK(instruction_set() == before);
}
