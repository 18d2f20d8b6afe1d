// Ways from rest to rest side by side, in the least time and in longer ones.
#include "elbowroom/pace/rest_ramps.hpp"

#include <catch2/catch.hpp>
#include <limits>

#include "elbowroom/base/random.hpp"
#include "elbowroom/pace/jerk_limited.hpp"
#include "support/instruction_sets.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;

namespace {

double decade(RandomStream& random) { return std::pow(10.0, random.uniform(-2.0, 2.0)); }

RestWays random_ways(RandomStream& random, double longer) {
  RestWays ways;
  ways.count = static_cast<int>(random.index(kRestWays)) + 1;
  for (std::size_t i = 0; i < static_cast<std::size_t>(ways.count); ++i) {
    ways.start[i] = 0.0;
    ways.distance[i] = (random.index(2) == 0 ? -1.0 : 1.0) * decade(random);
    ways.velocity[i] = decade(random);
    ways.acceleration[i] = decade(random);
    ways.jerk[i] = decade(random);
    ways.time[i] = longer * rest_to_rest_time(ways.distance[i], ways.velocity[i],
                                              ways.acceleration[i], ways.jerk[i]);
  }
  return ways;
}

}  // namespace

TEST_CASE("rest ramps: the whole way in the time that is asked for, within limits") {
  RandomStream random(891);
  for (const double longer : {1.0, 1.0 + 1e-9, 1.01, 1.7, 30.0}) {
    for (int n = 0; n < (kSanitized ? 20 : 400); ++n) {
      const RestWays ways = random_ways(random, longer);
      RestRamps first;
      bool is_first = true;
      on_each_instruction_set([&](const std::string& name) {
        INFO(name << ", " << longer << " times the least time");
        RestRamps ramps;
        rest_ramps(ways, ramps);
        for (int i = 0; i < ways.count; ++i) {
          const auto k = static_cast<std::size_t>(i);
          AxisProfile profile{AxisState{}};
          add_ramps(ramps, i, profile);
          CHECK(profile.duration() == Approx(ways.time[k]).epsilon(1e-7));
          CHECK(profile.end().position == Approx(ways.distance[k]).epsilon(1e-9));
          const double ramp = ramps.phases[0].duration[k];
          const double hold = ramps.phases[1].duration[k];
          const double cruise = ramps.phases[3].duration[k];
          const double top = ramp * (ramp + hold) * ways.jerk[k];
          CHECK(top <= ways.velocity[k] * (1 + 1e-9));
          CHECK(ramp * ways.jerk[k] <= ways.acceleration[k] * (1 + 1e-12));
          CHECK(std::abs(ramps.phases[0].jerk[k]) == ways.jerk[k]);
          CHECK(std::abs(profile.end().velocity) <= 1e-9 * top);
          INFO(ramp << " " << hold << " " << cruise << " of " << ways.time[k]);
          // Phases of rounding alone would become pieces with any jerk.
          for (const double phase : {hold, cruise})
            if (longer == 1.0 && phase > 0.0) CHECK(phase / ways.time[k] > 1e-9);
          for (std::size_t phase = 0; !is_first && phase < 7; ++phase) {
            CHECK(ramps.phases[phase].duration[k] == first.phases[phase].duration[k]);
            CHECK(ramps.phases[phase].position[k] == first.phases[phase].position[k]);
          }
        }
        if (is_first) first = ramps;
        is_first = false;
      });
    }
  }
}

TEST_CASE(
    "rest ramps: least times are those of one joint alone, and the quickest ramps take them") {
  RandomStream random(892);
  for (int n = 0; n < (kSanitized ? 100 : 2000); ++n) {
    RestWays ways = random_ways(random, 1.0);
    // Small and large ways, so that each limit is the one that counts; or none of speed.
    for (double& distance : ways.distance) distance *= std::pow(decade(random), 3);
    if (n % 10 == 0) ways.velocity.fill(std::numeric_limits<double>::infinity());
    if (n % 20 == 0) ways.acceleration.fill(std::numeric_limits<double>::infinity());
    RestWays first;
    on_each_instruction_set([&](const std::string& name) {
      INFO(name);
      RestWays least = ways;
      set_least_times(least);
      RestWays quickest = ways;
      RestRamps ramps;
      quickest_ramps(quickest, ramps);
      for (int i = 0; i < ways.count; ++i) {
        const auto k = static_cast<std::size_t>(i);
        const double alone = rest_to_rest_time(ways.distance[k], ways.velocity[k],
                                               ways.acceleration[k], ways.jerk[k]);
        CHECK(least.time[k] == Approx(alone).epsilon(1e-14));
        CHECK(quickest.time[k] == least.time[k]);
        AxisProfile profile{AxisState{}};
        add_ramps(ramps, i, profile);
        CHECK(profile.duration() == Approx(alone).epsilon(1e-12));
        CHECK(profile.end().position == Approx(ways.distance[k]).epsilon(1e-12));
        const double ramp = ramps.phases[0].duration[k];
        const double top = ramp * (ramp + ramps.phases[1].duration[k]) * ways.jerk[k];
        CHECK(top <= ways.velocity[k] * (1 + 1e-12));
        CHECK(ramp * ways.jerk[k] <= ways.acceleration[k] * (1 + 1e-12));
        CHECK(std::abs(profile.end().velocity) <= 1e-12 * top);
        if (first.count > 0) CHECK(least.time[k] == first.time[k]);
      }
      first = least;
    });
  }
}
