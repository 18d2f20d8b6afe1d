// Clearances of every link along a way.
#include "elbowroom/collision/clearance_profile.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/collision/least_clearance.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"

using namespace er;
using namespace er::test;

TEST_CASE("a profile of clearances has the nearest of each link, and misses little in between") {
  RandomStream random(41);
  for (const Cell& cell : {clutter_cell(Clutter::mixed), measured_cell()}) {
    const CellQuery query(cell, "");
    std::vector<Posture> waypoints;
    for (int i = 0; i < 3; ++i)
      waypoints.push_back(
          random.between(0.4 * query.arm().limits().lower, 0.4 * query.arm().limits().upper));
    const JointCurve way = lines_through(waypoints);
    const ClearanceProfile profile = clearance_profile(query, way, 0.002);
    REQUIRE(profile.at.front() == 0.0);
    REQUIRE(profile.at.back() == 2.0);
    CHECK(profile.between <= 0.002);
    CHECK(profile.between > 0.0001);
    PartPoses parts(query);
    std::vector<Nearest> links(query.arm().links().size());
    for (int k = 0; k < 200; ++k) {
      const double at = random.uniform(0.0, 2.0);
      query.nearest_of_links(way.at(at).position, parts, links);
      const auto after =
          std::upper_bound(profile.at.begin(), profile.at.end(), at) - profile.at.begin();
      for (std::size_t n = 0; n < profile.links.size(); ++n) {
        const double here = links[static_cast<std::size_t>(profile.links[n])].distance;
        const auto& told = profile.nearest[n];
        const double around = std::min(told[static_cast<std::size_t>(after - 1)].distance,
                                       told[static_cast<std::size_t>(after)].distance);
        REQUIRE(here >= around - profile.between - 1e-9);
      }
    }
    // The least of all is that of another way to find it.
    const auto [link, look] = profile.least();
    const double least = profile.nearest[link][look].distance;
    const LeastClearance found = least_clearance(query, waypoints, 1e-4);
    CHECK(found.nearest.distance <= least + 1e-4);
    CHECK(found.nearest.distance >= least - profile.between - 1e-4);
  }
}

TEST_CASE("a profile is of a motion of its arm") {
  const CellQuery query(clutter_cell(Clutter::posts), "");
  CHECK_THROWS_AS(clearance_profile(query, JointCurve()), InputError);
  CHECK_THROWS_AS(clearance_profile(query, lines_through({values({0, 1}), values({1, 0})})),
                  InputError);
  const Posture zero = Posture::Zero(7);
  CHECK_THROWS_AS(clearance_profile(query, lines_through({zero, zero}), 0.0), InputError);
  CHECK_THROWS_AS(lines_through({zero}), InputError);
  // Nothing moves: two looks will do.
  CHECK(clearance_profile(query, lines_through({zero, zero})).at.size() == 2);
}
