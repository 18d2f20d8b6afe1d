#include "elbowroom/pace/state_move.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/pace/motion.hpp"
#include "support/allocations.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

JointState state(const Posture& q, const Posture& v, const Posture& a) { return {q, v, a, {}}; }

JointState random_state(RandomStream& random, const Arm& arm, bool target) {
  JointState s{random_posture(random, arm), Posture::Zero(arm.dof()), Posture::Zero(arm.dof()), {}};
  const auto limits = axis_limits(arm.limits());
  for (int k = 0; k < arm.dof(); ++k) {
    AxisState axis;
    do {
      axis = {0.0, random.uniform(-1.0, 1.0) * arm.limits().velocity[k],
              random.uniform(-1.0, 1.0) * arm.limits().acceleration[k]};
      if (!target) axis.acceleration = -axis.acceleration;
    } while (!target_breach(axis, limits[static_cast<std::size_t>(k)]).empty());
    s.velocity[k] = axis.velocity;
    s.acceleration[k] = target ? axis.acceleration : -axis.acceleration;
  }
  return s;
}

}  // namespace

TEST_CASE("all joints go from any state to any state and arrive at the same moment") {
  const Arm arm = wrist_arm();
  RandomStream random(91);
  for (int i = 0; i < 100; ++i) {
    const JointState from = random_state(random, arm, false);
    const JointState to = random_state(random, arm, true);
    const StateMove move(from, to, axis_limits(arm.limits()));
    JointState end;
    move.at(move.duration(), end);
    CHECK((end.position - to.position).norm() < 1e-9);
    CHECK((end.velocity - to.velocity).norm() < 1e-9);
    CHECK((end.acceleration - to.acceleration).norm() < 1e-8);
    // The same as a motion: everything is continuous up to acceleration, and within the limits.
    const Motion motion = move.motion();
    CHECK(motion.duration() == Approx(move.duration()));
    const MotionPeaks peaks = peaks_of(motion, arm.limits());
    CHECK(peaks.velocity.share < 1 + 1e-9);
    CHECK(peaks.acceleration.share < 1 + 1e-9);
    CHECK(peaks.jerk.share < 1 + 1e-6);
    for (std::size_t k = 0; k + 1 < motion.pieces().size(); ++k) {
      const CurvePiece& piece = motion.pieces()[k];
      for (std::size_t joint = 0; joint < piece.joints.size(); ++joint)
        for (int order = 0; order < 3; ++order)
          CHECK(value_at(piece.joints[joint], piece.duration, order) ==
                Approx(value_at(motion.pieces()[k + 1].joints[joint], 0.0, order)).margin(1e-8));
    }
    for (int k = 0; k <= 20; ++k) {
      const JointState a = motion.at(move.duration() * k / 20);
      JointState b;
      move.at(move.duration() * k / 20, b);
      CHECK((a.position - b.position).norm() < 1e-9);
      CHECK((a.velocity - b.velocity).norm() < 1e-8);
    }
  }
}

TEST_CASE("from rest to rest joints with the same limits stay on the straight line") {
  const Posture zero = Posture::Zero(2);
  const StateMove move(state(values({0, 0}), zero, zero), state(values({2.0, -1.0}), zero, zero),
                       std::vector<AxisLimits>(2, symmetric_limits(2.0, 8.0, 80.0)));
  CHECK(move.slowest() == 0);
  JointState s;
  move.at(0.5 * move.duration(), s);
  CHECK((s.position - values({1.0, -0.5})).norm() < 1e-12);
  // One that does not have to arrive with the others is there sooner.
  const StateMove apart(state(values({0, 0}), zero, zero), state(values({2.0, -1.0}), zero, zero),
                        std::vector<AxisLimits>(2, symmetric_limits(2.0, 8.0, 80.0)),
                        {.together = false});
  apart.at(0.8 * move.duration(), s);
  CHECK(s.position[1] == Approx(-1.0).epsilon(1e-14));
  CHECK(s.position[0] < 2.0);
  const StateMove slow(state(values({0, 0}), zero, zero), state(values({2.0, -1.0}), zero, zero),
                       std::vector<AxisLimits>(2, symmetric_limits(2.0, 8.0, 80.0)),
                       {.at_least = 10.0});
  CHECK(slow.duration() == 10.0);
  // Copies are whole.
  StateMove copy = move;
  const auto is_same = [](const StateMove& a, const StateMove& b) {
    JointState one;
    JointState other;
    for (double share = 0.0; share <= 1.0; share += 0.05) {
      a.at(share * a.duration(), one);
      b.at(share * a.duration(), other);
      if (one.position != other.position || one.velocity != other.velocity ||
          one.acceleration != other.acceleration || one.jerk != other.jerk)
        return false;
    }
    return a.duration() == b.duration() && a.dof() == b.dof() && a.slowest() == b.slowest();
  };
  CHECK(is_same(copy, move));
  CHECK_FALSE(is_same(copy, slow));
  copy = slow;
  CHECK(is_same(copy, slow));
}

TEST_CASE("without jerk limits joints move in trapezoids") {
  const Posture zero = Posture::Zero(2);
  const StateMove move(state(values({0, 0}), zero, zero), state(values({2.0, -1.0}), zero, zero),
                       {symmetric_limits(2.0, 8.0, INFINITY), symmetric_limits(2.0, 8.0, 80.0)});
  CHECK(move.duration() == Approx(1.25));
  CHECK(peaks_of(move.motion(), planar_arm().limits()).velocity.share == Approx(1.0));
}

TEST_CASE("a target changed in every cycle allocates nothing and never leaves the limits") {
  const Arm arm = wrist_arm();
  const auto limits = axis_limits(arm.limits());
  RandomStream random(92);
  JointState now{
      random_posture(random, arm), Posture::Zero(arm.dof()), Posture::Zero(arm.dof()), {}};
  JointState to = now;
  long taken = 0;
  for (int cycle = 0; cycle < 300; ++cycle) {
    if (cycle % 20 == 0) to.position = random_posture(random, arm);
    const long before = allocations();
    const StateMove move(now, to, limits);
    move.at(0.004, now);
    taken += allocations() - before;
    for (int k = 0; k < arm.dof(); ++k) {
      REQUIRE(std::abs(now.velocity[k]) <= arm.limits().velocity[k] * (1 + 1e-9));
      REQUIRE(std::abs(now.acceleration[k]) <= arm.limits().acceleration[k] * (1 + 1e-9));
    }
  }
  CHECK(taken == 0);
}

TEST_CASE("states that make no sense are refused with the joint's number") {
  const Posture zero = Posture::Zero(2);
  const std::vector<AxisLimits> limits(2, symmetric_limits(2.0, 8.0, 80.0));
  const JointState rest = state(values({0, 0}), zero, zero);
  CHECK_THROWS_WITH(StateMove(rest, state(values({1, 1}), values({0.0, 2.5}), zero), limits),
                    Contains("joint 2: a motion cannot end as asked: its velocity of 2.5"));
  CHECK_THROWS_WITH(StateMove(rest, state(values({1}), values({0}), values({0})), limits),
                    Contains("different numbers of joints: 1 and 2"));
  CHECK_THROWS_WITH(StateMove(rest, state(values({1, NAN}), zero, zero), limits),
                    Contains("no finite number"));
  CHECK_THROWS_WITH(StateMove(rest, rest, limits).motion(), Contains("begins where it ends"));
  CHECK_THROWS_WITH(StateMove(rest, rest, limits, {.at_least = -1.0}), Contains("cannot take -1"));
}
