// What a motion's time cannot depend on: which way the path is gone, which way a joint counts, and
// the unit of time.
#include <catch2/catch.hpp>
#include <limits>
#include <tuple>
#include <utility>

#include "elbowroom/pace/pace.hpp"
#include "support/cells.hpp"
#include "support/demo.hpp"

using namespace er;
using namespace er::test;

namespace {

// Limits as in a world whose clock runs `faster` times as fast; torques are not limited.
Arm on_another_clock(const Arm& arm, double faster) {
  ArmDescription out = arm.description();
  for (Link& link : out.links) {
    JointLimits& limits = link.joint.limits;
    limits.velocity *= faster;
    limits.acceleration *= faster * faster;
    limits.jerk *= faster * faster * faster;
    limits.torque = std::numeric_limits<double>::infinity();
  }
  return Arm::build(out);
}

Arm counting_the_other_way(const Arm& arm) {
  ArmDescription out = arm.description();
  for (Link& link : out.links) {
    JointLimits& limits = link.joint.limits;
    link.joint.axis = -link.joint.axis;
    std::tie(limits.lower, limits.upper) = std::pair(-limits.upper, -limits.lower);
  }
  for (Stance& stance : out.stances) stance.posture = -stance.posture;
  return Arm::build(out);
}

double duration(const Arm& arm, const std::vector<Posture>& waypoints, const PaceOptions& options) {
  const auto motion = pace(waypoints, CellQuery(Cell::build({.arms = {arm}}), arm.name()), options);
  REQUIRE(motion);
  return motion->motion.duration();
}

}  // namespace

TEST_CASE("pace: there and back, joints counted the other way, another clock: the same time") {
  const Arm arm = on_another_clock(demo_cell().arms().front(), 1.0);
  constexpr double kFaster = 0.37;
  const Arm slow = on_another_clock(arm, kFaster);
  const Arm counted = counting_the_other_way(arm);
  RandomStream random(8);
  for (int trial = 0; trial < 6; ++trial) {
    std::vector<Posture> waypoints;
    std::vector<Posture> negative;
    for (int i = 0; i < 2 + trial % 3; ++i) {
      waypoints.push_back(random.between(0.4 * arm.limits().lower, 0.4 * arm.limits().upper));
      if (i == 1) waypoints[1][trial] = waypoints[0][trial];  // a joint that rests
      negative.push_back(-waypoints.back());
    }
    const std::vector<Posture> back(waypoints.rbegin(), waypoints.rend());
    for (const Profile profile : kAllProfiles)
      for (const bool keep_jerk : {false, true}) {
        if (keep_jerk && profile != Profile::time_optimal) continue;
        for (const bool round : {false, true}) {
          if (round && profile != Profile::time_optimal) continue;
          PaceOptions options{.profile = profile, .keep_jerk = keep_jerk};
          if (round) options.corners = CornerBounds{.angle = 0.1};
          INFO(law_name(profile, keep_jerk) << (round ? ", round" : ""));
          const double time = duration(arm, waypoints, options);
          // Corners are rounded one after the other, so from the other end a little differently.
          CHECK(duration(arm, back, options) == Approx(time).epsilon(round ? 0.02 : 1e-9));
          CHECK(kFaster * duration(slow, waypoints, options) == Approx(time).epsilon(1e-9));
          CHECK(duration(counted, negative, options) == Approx(time).epsilon(1e-9));
        }
      }
  }
}
