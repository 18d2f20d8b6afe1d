// The speed of a frame over a whole curve, against many samples; and motions that keep it.
#include "elbowroom/collision/frame_speed.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/spline.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/pace/pace.hpp"
#include "elbowroom/rehearse/audit_motion.hpp"
#include "support/cells.hpp"
#include "support/chains.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

// By forward kinematics and small differences of places.
double sampled_speed(const Arm& arm, const FrameSpeed& rule, const JointCurve& curve, int samples) {
  const ArmPoint point = point_of(arm, rule);
  const auto place = [&](double t) {
    return frame_pose(arm, point.link, Pose::at(point.at), curve.at(t).position).position;
  };
  double most = 0.0;
  const double step = 1e-5 * curve.duration();
  for (int i = 0; i < samples; ++i) {
    const double t = step + (curve.duration() - 2.0 * step) * i / samples;
    most = std::max(most, (place(t + step) - place(t - step)).norm() / (2.0 * step));
  }
  return most;
}

CellQuery query_alone(const Arm& arm) { return {Cell::build({.arms = {arm}}), arm.name()}; }

}  // namespace

TEST_CASE("frame speed: a bound over the whole curve, close above what samples find") {
  RandomStream random(941);
  for (int n = 0; n < (kSanitized ? 3 : 20); ++n) {
    const Arm arm = random_arm(random, 3 + n % 4);
    std::vector<SplineKnot> knots;
    for (int i = 0; i < 4; ++i) knots.push_back({0.5 * random_posture(random, arm)});
    const JointCurve curve =
        spline_through(knots, {1.0, 0.7, 1.3}, SplineDegree::quintic, SplineEnds::clamped);
    const FrameSpeed rule{"one", arm.links().back().name, {0.05, -0.02, 0.1}, 0.4};
    const FastestFrame fastest = fastest_of(arm, rule, curve);
    const double seen = sampled_speed(arm, rule, curve, kSanitized ? 400 : 4000) / rule.most;
    CHECK(fastest.share >= seen * (1 - 1e-6));
    CHECK(fastest.share <= seen + 2e-3);
    CHECK(fastest.time >= 0.0);
    CHECK(fastest.time <= curve.duration());
  }
}

TEST_CASE("frame speed: every profile keeps it, and is no slower than it must be") {
  const Arm arm = planar_arm();
  const CellQuery query = query_alone(arm);
  const std::vector<Posture> way{values({-0.5, 0.2}), values({0.7, 1.0}), values({0.2, -0.6})};
  const FrameSpeed slow{"slow tip", "", Vector3::Zero(), 0.25};
  const FrameSpeed slower{"slow elbow", "fore", Vector3::Zero(), 0.1};
  for (const Profile profile : kAllProfiles) {
    INFO(name_of(profile));
    PaceOptions options{.profile = profile};
    const double free = pace(way, query, options)->motion.duration();
    options.frame_speeds = {slow, slower};
    const auto paced = pace(way, query, options);
    REQUIRE(paced);
    CHECK(paced->motion.duration() > free);
    REQUIRE(paced->frames.size() == 2);
    double most = 0.0;
    for (const FrameSpeed& rule : options.frame_speeds) {
      const double seen = sampled_speed(arm, rule, paced->motion, 2000) / rule.most;
      CHECK(seen <= 1 + 1e-6);
      most = std::max(most, seen);
    }
    CHECK(most > 0.99);
    CHECK_THAT(paced->report(arm), Contains("rule 'slow elbow': fore at 100.0 mm/s at most"));
    CHECK(audit_motion(query, paced->motion, {.frame_speeds = {slow, slower}}).passed());
    const FrameSpeed tighter{"tighter", "fore", Vector3::Zero(), 0.09};
    const MotionAudit audit = audit_motion(query, paced->motion, {.frame_speeds = {tighter}});
    REQUIRE_FALSE(audit.passed());
    CHECK_THAT(audit.breaches.front().what, Contains("rule 'tighter'"));
  }
  // Time-optimal, it is as fast as it may be for most of the way: quicker than slowed as a whole.
  PaceOptions options{.profile = Profile::time_optimal};
  const double free = pace(way, query, options)->motion.duration();
  const double share = fastest_of(arm, slower, pace(way, query, options)->motion).share;
  options.frame_speeds = {slower};
  CHECK(pace(way, query, options)->motion.duration() < 0.95 * share * free);
  options.keep_jerk = true;
  const auto smooth = pace(way, query, options);
  REQUIRE(smooth);
  CHECK(sampled_speed(arm, slower, smooth->motion, 2000) <= 0.1 * (1 + 1e-6));
}

TEST_CASE("frame speed: what makes no sense") {
  const Arm arm = planar_arm();
  CHECK_THROWS_WITH(check_frame_speed(arm, {"x", "fore", Vector3::Zero(), 0.0}),
                    Contains("more than zero"));
  CHECK_THROWS_WITH(check_frame_speed(arm, {"x", "four", Vector3::Zero(), 1.0}),
                    Contains("unknown tool or link 'four'"));
  CHECK_THROWS_WITH(check_frame_speed(arm, {"x", "fore", {NAN, 0, 0}, 1.0}), Contains("no number"));
  CHECK(has_frame(arm, {"x", "", Vector3::Zero(), 1.0}));
  CHECK_FALSE(has_frame(arm, {"x", "cup_1", Vector3::Zero(), 1.0}));
}
