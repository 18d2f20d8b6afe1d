#include "elbowroom/rehearse/audit_motion.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/pace/pace.hpp"
#include "elbowroom/pace/tool_moments.hpp"
#include "elbowroom/rehearse/compare_motions.hpp"
#include "support/cells.hpp"
#include "support/demo.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

const CellQuery& query() {
  static const CellQuery demo(demo_cell(), "teasel");
  return demo;
}

Motion sound() {
  const Arm& arm = query().arm();
  return pace({arm.stance("home"), arm.stance("over_bucket"), arm.stance("home")}, query(),
              {.profile = Profile::jerk_limited})
      ->motion;
}

}  // namespace

TEST_CASE("audit: a sound motion may be run, with jerk counted, too") {
  const MotionAudit audit = audit_motion(query(), sound(), {.jerk = true});
  CHECK(audit.passed());
  CHECK_THAT(audit.summary(), Contains("yes: may be run: ") && Contains("proved to keep 5.0 mm"));
  CHECK(audit.notes.empty());
  // The speed of the tool by differences of its places.
  const Motion motion = sound();
  const Tool tool = query().arm().end_tool();
  double speed = 0.0;
  for (int i = 0; i < 4000; ++i) {
    const double t = motion.duration() * i / 4000;
    speed = std::max(speed, (tool_pose(query().arm(), tool, motion.at(t + 1e-4).position).position -
                             tool_pose(query().arm(), tool, motion.at(t).position).position)
                                    .norm() /
                                1e-4);
  }
  CHECK(audit.tool_speed == Approx(speed).epsilon(2e-3));
}

TEST_CASE("audit: whatever is spoilt is found, first and worst, by its name") {
  const Arm& arm = query().arm();
  const Motion motion = sound();
  const double half = 0.5 * motion.duration();
  // Twice as fast: velocities and accelerations.
  const MotionAudit fast = audit_motion(query(), motion.stretched(0.5));
  CHECK_FALSE(fast.passed());
  bool velocity = false;
  for (const MotionBreach& one : fast.breaches) {
    if (one.what.find("velocity of") == std::string::npos) continue;
    velocity = true;
    CHECK(one.first <= one.worst);
    const int joint = arm.find_moving_joint(one.what.substr(12));
    REQUIRE(joint >= 0);
    // Just before it first does, the limit still holds.
    CHECK(std::abs(motion.stretched(0.5).at(one.first - 1e-4).velocity[joint]) <=
          arm.limits().velocity[joint] * (1 + 1e-6));
    CHECK(std::abs(motion.stretched(0.5).at(one.first + 1e-3).velocity[joint]) >
          arm.limits().velocity[joint]);
  }
  CHECK(velocity);

  // Cut in its middle, it neither begins nor ends at rest.
  const MotionAudit cut = audit_motion(query(), motion.cut(0.3 * half, 0.9 * half));
  CHECK_THAT(cut.summary(), Contains("a jump of the velocity of"));
  // A piece moved away.
  std::vector<CurvePiece> pieces = motion.pieces();
  pieces[3].joints[0][0] += 0.01;
  const MotionAudit jump = audit_motion(query(), Motion(pieces));
  CHECK_THAT(jump.summary(), Contains("a jump of waist, by 0.6 deg at "));
  // Out of range.
  pieces = motion.pieces();
  for (CurvePiece& piece : pieces) piece.joints[1][0] += 3.0;
  CHECK_THAT(audit_motion(query(), Motion(pieces)).report(arm), Contains("range of shoulder"));
  // Through the splash wall.
  const auto through = pace({arm.stance("over_board"), arm.stance("over_bucket")}, arm);
  const MotionAudit blocked = audit_motion(query(), through->motion);
  CHECK_THAT(blocked.summary(),
             Contains("clearance, from 0.") &&
                 Contains("teasel.gripper and splash_wall are nearer than 5.0 mm"));
  CHECK(blocked.breaches.size() == 1);
  // Jerk only when it counts.
  const auto trapezoid =
      pace({arm.stance("home"), arm.stance("before_kiln")}, arm, {.profile = Profile::trapezoid});
  CHECK(audit_motion(query(), trapezoid->motion).passed());
  CHECK_FALSE(audit_motion(query(), trapezoid->motion).notes.empty());
  CHECK_FALSE(audit_motion(query(), trapezoid->motion, {.jerk = true}).passed());
  // Motors that are too weak by half for what they take now.
  ArmDescription weak = arm.description();
  const double share = audit_motion(query(), motion).torque.share;
  REQUIRE(share > 0.05);
  REQUIRE(share < 1.0);
  for (Link& link : weak.links) link.joint.limits.torque *= 0.5 * share;
  const MotionAudit tired = audit_motion(query().with_arm(Arm::build(weak)), motion);
  CHECK(tired.torque.share == Approx(2.0));
  CHECK_THAT(tired.summary(), Contains("torque of ") && Contains("200.0 % of its limit, at "));
  // The tool.
  CHECK_THAT(audit_motion(query(), motion, {.tool_speed = 0.1}).summary(),
             Contains("speed of the tool"));
  const auto swing =
      pace({arm.stance("home"), arm.stance("before_kiln")}, arm, {.profile = Profile::quintic});
  REQUIRE(swing);
  const double fastest = highest_speed(tool_moments(swing->motion, arm, arm.end_tool(""), 20000));
  CHECK(audit_motion(query(), swing->motion, {.tool_speed = 1.0005 * fastest}).passed());
  CHECK_FALSE(audit_motion(query(), swing->motion, {.tool_speed = 0.998 * fastest}).passed());
  CHECK_THROWS_WITH(audit_motion(query(), Motion(std::vector<CurvePiece>{{1.0, {Quintic{}}}})),
                    Contains("the motion has 1 joints"));
}

TEST_CASE("compared: a lag is found and taken out, and what is left is what was added") {
  const Arm& arm = query().arm();
  const Motion planned = sound();
  // Late by 12.3 ms, with an offset of a milliradian at the elbow.
  CurvePiece wait{0.0123, {}};
  for (int k = 0; k < arm.dof(); ++k) wait.joints.push_back({planned.at(0.0).position[k]});
  std::vector<CurvePiece> pieces{wait};
  pieces.insert(pieces.end(), planned.pieces().begin(), planned.pieces().end());
  for (CurvePiece& piece : pieces) piece.joints[2][0] += 1e-3;
  const MotionComparison compared = compare_motions(arm, planned, Motion(pieces));
  CHECK(compared.lag == Approx(0.0123).margin(2e-5));
  CHECK(compared.largest[2] == Approx(1e-3).margin(1e-4));
  CHECK(compared.root_mean_square[2] == Approx(1e-3).margin(1e-4));
  CHECK(compared.largest[0] < 1e-4);
  CHECK(compared.tool < 0.2 * compared.tool_before);
  CHECK_THAT(compared.text(arm), Contains("ms behind the first"));
  const MotionComparison same = compare_motions(arm, planned, planned);
  CHECK(same.lag == 0.0);
  CHECK(same.tool == 0.0);
}
