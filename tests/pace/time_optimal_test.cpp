#include "elbowroom/pace/time_optimal.hpp"

#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/spline.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/pace/pace.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"
#include "support/motions.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

PathLimits planar_limits() {
  return {.velocity = values({2.0, 1.5}), .acceleration = values({8.0, 5.0})};
}

double sampled_use(const Motion& motion, const PathLimits& limits) {
  return std::max(sampled_share(motion, limits.velocity, 1),
                  sampled_share(motion, limits.acceleration, 2));
}

// The least time over the same grid with velocities of a finite list: all ways from one to the next
// that keep the limits at both ends of an interval, by dynamic programming.
double by_brute_force(const JointCurve& path, const PathLimits& limits, int intervals, int levels) {
  const auto derivative = [&](double s, int order) {
    const JointState at = path.at(s);
    return order == 1 ? at.velocity : at.acceleration;
  };
  double top = 0.0;  // of ds/dt squared
  std::vector<Posture> slope, curvature;
  std::vector<double> most;
  const double step = path.duration() / intervals;
  for (int i = 0; i <= intervals; ++i) {
    slope.push_back(derivative(i * step, 1));
    curvature.push_back(derivative(i * step, 2));
    double least = 1e9;
    for (int k = 0; k < path.dof(); ++k)
      least = std::min(
          least, std::pow(limits.velocity[k] / std::max(std::abs(slope.back()[k]), 1e-12), 2));
    most.push_back(least);
  }
  // Where all joints turn round there is no bound; a level above most others would be of no use.
  std::vector<double> sorted = most;
  std::sort(sorted.begin(), sorted.end());
  top = 1.2 * sorted[sorted.size() / 2];
  const auto x_of = [&](int level) {
    return top * std::pow(static_cast<double>(level) / levels, 2);
  };
  std::vector<double> best(static_cast<std::size_t>(levels) + 1, 1e9);
  best[0] = 0.0;
  for (int i = 0; i < intervals; ++i) {
    std::vector<double> next(best.size(), 1e9);
    const auto here = static_cast<std::size_t>(i);
    for (int a = 0; a <= levels; ++a) {
      if (best[static_cast<std::size_t>(a)] > 1e8) continue;
      for (int b = 0; b <= levels; ++b) {
        const double x = x_of(a), y = x_of(b);
        if (a + b == 0 || y > most[here + 1]) continue;
        const double u = (y - x) / (2 * step);
        bool keeps = true;
        for (int k = 0; k < path.dof() && keeps; ++k)
          keeps = std::abs(slope[here][k] * u + curvature[here][k] * x) <= limits.acceleration[k] &&
                  std::abs(slope[here + 1][k] * u + curvature[here + 1][k] * y) <=
                      limits.acceleration[k];
        if (!keeps) continue;
        double& time = next[static_cast<std::size_t>(b)];
        time = std::min(
            time, best[static_cast<std::size_t>(a)] + 2 * step / (std::sqrt(x) + std::sqrt(y)));
      }
    }
    best.swap(next);
  }
  return best[0];
}

}  // namespace

TEST_CASE("time-optimal: a straight line is the trapezoid") {
  const Arm arm = planar_arm();
  for (const double share : {1.0, 0.02}) {
    const std::vector<Posture> ends{values({0, 0}), share * values({2.0, -1.0})};
    const auto optimal = pace(ends, arm, {.profile = Profile::time_optimal});
    const auto trapezoid = pace(ends, arm, {.profile = Profile::trapezoid});
    REQUIRE(optimal);
    CHECK(optimal->motion.duration() == Approx(trapezoid->motion.duration()).epsilon(1e-4));
    CHECK(optimal->motion.duration() >= trapezoid->motion.duration() * (1 - 1e-9));
    CHECK(optimal->motion.pieces().size() <= 5);
  }
}

TEST_CASE(
    "time-optimal: not slower than any of all the ways on a grid, and hardly quicker than the "
    "best") {
  RandomStream random(101);
  for (int i = 0; i < 2; ++i) {
    const JointCurve path = smooth_path(random, 2, 3);
    constexpr int kIntervals = 48;
    const TimeOptimal found = time_optimal(path, planar_arm(), planar_limits(),
                                           {.intervals = kIntervals, .refinements = 0})
                                  .value();
    // Slowed by the excess between grid points, which brute force does not know of.
    const double own = found.motion.duration() / found.slowed;
    const double other = by_brute_force(path, planar_limits(), found.intervals, 250);
    CHECK(own <= other * (1 + 1e-9));
    CHECK(own >= other * 0.9);
  }
}

TEST_CASE(
    "time-optimal: no limit is exceeded between grid points, finer grids change little, and one "
    "limit is used all the way") {
  RandomStream random(102);
  for (int i = 0; i < 6; ++i) {
    const JointCurve path = smooth_path(random, 2, 4 + i);
    const PathLimits limits = planar_limits();
    const TimeOptimal found = time_optimal(path, planar_arm(), limits).value();
    CHECK(sampled_use(found.motion, limits) <= 1 + 1e-9);
    CHECK(found.slowed < 1.001);
    const TimeOptimal fine = time_optimal(path, planar_arm(), limits, {.intervals = 16000}).value();
    CHECK(found.motion.duration() == Approx(fine.motion.duration()).epsilon(1e-3));
    // Where no limit is used to the full, it could have been quicker.
    int idle = 0;
    const auto& pieces = fine.motion.pieces();
    for (const CurvePiece& piece : pieces) {
      double use = 0.0;
      for (std::size_t k = 0; k < 2; ++k)
        for (const double t : {0.0, piece.duration})
          use = std::max({use,
                          std::abs(value_at(piece.joints[k], t, 1)) /
                              limits.velocity[static_cast<Eigen::Index>(k)],
                          std::abs(value_at(piece.joints[k], t, 2)) /
                              limits.acceleration[static_cast<Eigen::Index>(k)]});
      idle += use < 0.98 ? 1 : 0;
    }
    CHECK(idle < static_cast<int>(pieces.size()) / 50);
    const JointState end = found.motion.at(found.motion.duration());
    CHECK((end.position - path.at(path.duration()).position).norm() < 1e-9);
    CHECK(end.velocity.norm() < 1e-9);
  }
}

TEST_CASE("time-optimal: what others trip over") {
  const Arm arm = planar_arm();
  const PathLimits limits = planar_limits();
  const auto keeps = [&](const JointCurve& path) {
    const TimeOptimal found = time_optimal(path, arm, limits).value();
    CHECK(sampled_use(found.motion, limits) <= 1 + 1e-9);
    CHECK((found.motion.at(found.motion.duration()).position - path.at(path.duration()).position)
              .norm() < 1e-6 * (1 + path.duration()));
    return found.motion.duration();
  };
  // Joints that turn round on the way: their inertia vanishes there.
  std::vector<Posture> circle;
  for (int i = 0; i <= 12; ++i) circle.push_back(values({std::cos(0.7 * i), std::sin(0.7 * i)}));
  keeps(spline_through(circle, std::vector<double>{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12}));
  // A joint that does not move; very short; very long.
  CHECK(keeps(straight_path({values({0, 0.3}), values({1.0, 0.3})}).stretches[0]) ==
        Approx(1.0 / 2.0 + 2.0 / 8.0).epsilon(1e-4));
  const double tiny = keeps(straight_path({values({0, 0}), values({1e-8, 0})}).stretches[0]);
  CHECK(tiny == Approx(2.0 * std::sqrt(1e-8 / 8.0)).epsilon(1e-3));
  CHECK(keeps(straight_path({values({0, 0}), values({1e4, 0})}).stretches[0]) ==
        Approx(5000.25).epsilon(1e-4));
  // Waypoints nearly the same, and turned round upon: stops at both.
  const auto paced =
      pace({values({0, 0}), values({0.5, 0}), values({0.5 + 1e-7, 1e-7}), values({0, 0})}, arm,
           {.profile = Profile::time_optimal});
  REQUIRE(paced);
  CHECK(paced->stops == 2);
  CHECK(sampled_use(paced->motion, {.velocity = arm.limits().velocity,
                                    .acceleration = arm.limits().acceleration}) <= 1 + 1e-9);
}

TEST_CASE("time-optimal: speed and acceleration of the tool, and slow stretches") {
  RandomStream random(103);
  const Arm arm = clutter_arm();
  const Tool tool = arm.end_tool();
  const JointCurve path = smooth_path(random, 7, 4);
  PathLimits limits{.velocity = Posture::Constant(7, 2.5),
                    .acceleration = Posture::Constant(7, 10.0)};
  const double free = time_optimal(path, arm, limits)->motion.duration();
  limits.tool_speed = 0.5;
  limits.tool_acceleration = 2.0;
  limits.link = tool.link_index;
  limits.tip = tool.tip.position;
  const Motion motion = time_optimal(path, arm, limits)->motion;
  CHECK(motion.duration() > free);
  const auto tip = [&](double t) { return tool_pose(arm, tool, motion.at(t).position).position; };
  double speed = 0.0, acceleration = 0.0;
  constexpr double kStep = 1e-4;
  for (int i = 1; i < 3000; ++i) {
    const double t = 0.001 + (motion.duration() - 0.002) * i / 3000;
    const Vector3 a = tip(t - kStep), b = tip(t), c = tip(t + kStep);
    speed = std::max(speed, (c - a).norm() / (2 * kStep));
    acceleration = std::max(acceleration, (c - 2 * b + a).norm() / (kStep * kStep));
  }
  CHECK(speed <= 0.5 * 1.001);
  CHECK(speed > 0.49);
  CHECK(acceleration <= 2.0 * 1.02);
  CHECK(acceleration > 1.9);

  PathLimits slow{.velocity = Posture::Constant(7, 2.5),
                  .acceleration = Posture::Constant(7, 10.0)};
  slow.caps.push_back({.from = 0.0, .to = path.duration(), .share = 0.1});
  CHECK(time_optimal(path, arm, slow)->motion.duration() > 5.0 * free);
}

TEST_CASE("time-optimal: limits and paths that make no sense") {
  const Arm arm = planar_arm();
  const JointCurve path = straight_path({values({0, 0}), values({1, 0})}).stretches[0];
  PathLimits limits = planar_limits();
  limits.velocity[1] = 0.0;
  CHECK_THROWS_WITH(time_optimal(path, arm, limits),
                    Contains("the limits of joint 2 are above zero, found 0"));
  CHECK_THROWS_WITH(time_optimal(JointCurve(), arm, planar_limits()), Contains("no length"));
  limits = planar_limits();
  limits.acceleration = values({1.0});
  CHECK_THROWS_WITH(time_optimal(path, arm, limits), Contains("1 limits for 2 joints"));
  limits = planar_limits();
  limits.tool_speed = -1.0;
  CHECK_THROWS_WITH(time_optimal(path, arm, limits), Contains("the tool's limits"));
}
