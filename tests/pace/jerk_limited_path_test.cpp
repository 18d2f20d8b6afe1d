// The quickest way along a path with jerk limited, against closed forms and symmetries.
#include "elbowroom/pace/jerk_limited_path.hpp"

#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/spline.hpp"
#include "elbowroom/pace/line_profile.hpp"
#include "elbowroom/pace/path_barrier.hpp"
#include "elbowroom/pace/time_optimal.hpp"
#include "support/cells.hpp"
#include "support/instruction_sets.hpp"
#include "support/motions.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

PathLimits all_limits(double jerk) {
  return {.velocity = values({2.0, 1.5}),
          .acceleration = values({8.0, 5.0}),
          .jerk = values({jerk, 0.8 * jerk})};
}

double closed_form(const Posture& from, const Posture& to, const PathLimits& limits) {
  Limits own;
  own.velocity = limits.velocity;
  own.acceleration = limits.acceleration;
  own.jerk = limits.jerk;
  return Motion(jerk_limited_line(from, to, own, 1.0)).duration();
}

double largest_use(const Motion& motion, const PathLimits& limits) {
  return std::max({sampled_share(motion, limits.velocity, 1),
                   sampled_share(motion, limits.acceleration, 2),
                   sampled_share(motion, limits.jerk, 3)});
}

}  // namespace

TEST_CASE("jerk-limited path: a straight line is the closed form, short, middling and long") {
  const Arm arm = planar_arm();
  const PathLimits limits = all_limits(80.0);
  for (const double share : {0.005, 0.2, 1.0}) {
    const Posture to = share * values({2.5, -1.0});
    const double least = closed_form(values({0, 0}), to, limits);
    const auto found = jerk_limited_path(lines_through({values({0, 0}), to}), arm, limits);
    REQUIRE(found);
    CHECK(found->motion.duration() >= least * (1 - 1e-9));
    CHECK(found->motion.duration() <= least * 1.002);
    CHECK(largest_use(found->motion, limits) <= 1 + 1e-9);
  }
}

TEST_CASE("jerk-limited path: a straight line gone along unevenly is the same line") {
  // The parameter's own derivatives of second and third order have to drop out.
  const Arm arm = planar_arm();
  const PathLimits limits = all_limits(80.0);
  const Posture to = values({1.6, -1.1});
  Quintics joints;
  for (const double end : to) joints.push_back({0.0, 0.5 * end, 1.2 * end, -0.7 * end, 0.0, 0.0});
  const auto found = jerk_limited_path(JointCurve({{1.0, joints}}), arm, limits);
  REQUIRE(found);
  const double least = closed_form(values({0, 0}), to, limits);
  CHECK(found->motion.duration() >= least * (1 - 1e-9));
  CHECK(found->motion.duration() <= least * 1.003);
}

TEST_CASE(
    "jerk-limited path: no limit is passed, both ends are at rest, and it stays on the path") {
  RandomStream random(201);
  for (int n = 0; n < 4; ++n) {
    const JointCurve path = smooth_path(random, 2, 3 + n);
    const PathLimits limits = all_limits(60.0);
    const auto found = jerk_limited_path(path, planar_arm(), limits);
    REQUIRE(found);
    CHECK(largest_use(found->motion, limits) <= 1 + 1e-9);
    CHECK(found->slowed < 1.02);
    for (const double end : {0.0, found->motion.duration()}) {
      const JointState at = found->motion.at(end);
      CHECK(at.velocity.norm() < 1e-9);
      CHECK(at.acceleration.norm() < 1e-6);
    }
    for (std::size_t i = 0; i <= found->motion.pieces().size(); ++i)
      for (int k = 0; k < 2; ++k) CHECK(std::abs(jump_before(found->motion, i, k, 2)) < 1e-6);
    // Distance of samples to the nearest of many points of the path.
    std::vector<Posture> points;
    for (int i = 0; i <= 20000; ++i)
      points.push_back(path.at(path.duration() * i / 20000).position);
    for (int i = 0; i <= 100; ++i) {
      const Posture q = found->motion.at(found->motion.duration() * i / 100).position;
      double nearest = 1e9;
      for (const Posture& p : points) nearest = std::min(nearest, (p - q).norm());
      CHECK(nearest < 1e-3);
    }
  }
}

TEST_CASE(
    "jerk-limited path: the way back takes as long, finer splines little less, and without "
    "jerk's limit it is time-optimal") {
  RandomStream random(202);
  const Arm arm = planar_arm();
  for (int n = 0; n < 3; ++n) {
    const JointCurve path = smooth_path(random, 2, 4);
    const PathLimits limits = all_limits(60.0);
    const auto there = jerk_limited_path(path, arm, limits);
    const auto back = jerk_limited_path(path.reversed(), arm, limits);
    const auto fine = jerk_limited_path(path, arm, limits, {.intervals = 4000});
    REQUIRE((there && back && fine));
    CHECK(back->motion.duration() == Approx(there->motion.duration()).epsilon(1e-3));
    CHECK(there->motion.duration() == Approx(fine->motion.duration()).epsilon(1e-3));
    CHECK(fine->motion.duration() <= there->motion.duration() * (1 + 1e-3));

    const double without = time_optimal(path, arm, limits)->motion.duration();
    CHECK(there->motion.duration() > without);
    PathLimits wide = limits;
    wide.jerk *= 50.0;
    const auto nearly = jerk_limited_path(path, arm, wide, {.intervals = 2000});
    REQUIRE(nearly);
    CHECK(nearly->motion.duration() > without * (1 - 1e-3));
    CHECK(nearly->motion.duration() < without * 1.03);
  }
}

TEST_CASE("jerk-limited path: a slower stretch and the tool's limits are kept") {
  RandomStream random(203);
  const Arm arm = planar_arm();
  const JointCurve path = smooth_path(random, 2, 4);
  PathLimits limits = all_limits(60.0);
  const double free = jerk_limited_path(path, arm, limits)->motion.duration();
  limits.link = arm.end_tool().link_index;
  limits.tip = arm.end_tool().tip.position;
  limits.tool_speed = 0.4;
  limits.tool_acceleration = 1.5;
  const auto slow = jerk_limited_path(path, arm, limits);
  REQUIRE(slow);
  CHECK(slow->motion.duration() > free);
  CHECK(stretch_to_keep(slow->motion, arm, limits) <= 1 + 1e-6);
  CHECK(stretch_to_keep(slow->motion, arm, limits) > 0.97);
  PathLimits capped = all_limits(60.0);
  capped.caps = {{0.0, path.duration(), 0.1}};
  const auto crawl = jerk_limited_path(path, arm, capped);
  REQUIRE(crawl);
  Limits own;
  own.velocity = 0.1 * capped.velocity;
  own.acceleration = capped.acceleration;
  own.jerk = capped.jerk;
  CHECK(peaks_of(crawl->motion, own).velocity.share < 1.01);
  CHECK(peaks_of(crawl->motion, own).velocity.share > 0.98);
}

TEST_CASE("jerk-limited path: bad input") {
  const JointCurve path = lines_through({values({0, 0}), values({1, 1})});
  PathLimits limits = all_limits(60.0);
  limits.jerk = {};
  CHECK_THROWS_WITH(jerk_limited_path(path, planar_arm(), limits),
                    Contains("a finite limit of every joint"));
  limits.jerk = values({60.0, std::numeric_limits<double>::infinity()});
  CHECK_THROWS_AS(jerk_limited_path(path, planar_arm(), limits), InputError);
  limits.jerk = values({60.0, 0.0});
  CHECK_THROWS_WITH(jerk_limited_path(path, planar_arm(), limits), Contains("above zero"));
}

TEST_CASE(
    "the barrier of a path: its gradient is that of the logarithms, on every instruction set") {
  RandomStream random(204);
  constexpr std::size_t kPoints = 11;
  PathBounds bounds(kPoints);
  const auto some = [&](double most) {
    PathBounds::Values out(bounds.count, 0.0);
    for (std::size_t i = 0; i < kPoints; ++i) out[i] = random.uniform(-most, most);
    return out;
  };
  bounds.linear.push_back({some(0.3), some(0.3)});
  bounds.linear.push_back({some(0.2), some(0.2), some(0.3), some(0.1)});
  bounds.cones.push_back({{some(0.2), some(0.2), some(0.2)}, {some(0.2), some(0.2), some(0.2)}});
  bounds.jerks.push_back({some(0.1), some(0.1), some(0.1)});
  std::vector<double> x(bounds.count, 1.0), slope(bounds.count, 0.0), bend(bounds.count, 0.0);
  for (std::size_t i = 0; i < kPoints; ++i) {
    x[i] = random.uniform(0.5, 1.5);
    slope[i] = random.uniform(-1.0, 1.0);
    bend[i] = random.uniform(-1.0, 1.0);
  }
  const auto value = [&](std::size_t i, double vx, double vs, double vb) {
    double out = 0.0;
    for (const PathBounds::Linear& one : bounds.linear) {
      double l = one.of_x[i] * vx + one.of_slope[i] * vs;
      if (!one.still.empty()) l += one.still[i] + one.by_root[i] * std::sqrt(vx);
      out -= std::log(1.0 - l) + std::log(1.0 + l);
    }
    for (const PathBounds::Cone& one : bounds.cones) {
      double sum = 0.0;
      for (std::size_t k = 0; k < 3; ++k)
        sum += std::pow(one.of_x[k][i] * vx + one.of_slope[k][i] * vs, 2);
      out -= std::log(1.0 - sum);
    }
    for (const PathBounds::Jerk& one : bounds.jerks) {
      const double l =
          std::sqrt(vx) * (one.of_x[i] * vx + one.of_slope[i] * vs + one.of_bend[i] * vb);
      out -= std::log(1.0 - l) + std::log(1.0 + l);
    }
    return out;
  };
  PathBarrier first;
  on_each_instruction_set([&](const std::string& name) {
    INFO(name);
    PathBarrier found;
    REQUIRE(path_barrier(bounds, {x, slope, bend}, found));
    constexpr double kStep = 1e-6;
    for (std::size_t i = 0; i < kPoints; ++i) {
      const auto difference = [&](double a, double b, double c) {
        return (value(i, x[i] + a, slope[i] + b, bend[i] + c) -
                value(i, x[i] - a, slope[i] - b, bend[i] - c)) /
               (2.0 * kStep);
      };
      CHECK(found.gradient[0][i] == Approx(difference(kStep, 0, 0)).margin(1e-7));
      CHECK(found.gradient[1][i] == Approx(difference(0, kStep, 0)).margin(1e-7));
      CHECK(found.gradient[2][i] == Approx(difference(0, 0, kStep)).margin(1e-7));
      CHECK(found.hessian[0][i] > 0.0);
    }
    if (first.gradient[0].empty()) first = found;
    CHECK(found.gradient == first.gradient);
    CHECK(found.hessian == first.hessian);
  });
  x[3] = -0.1;
  CHECK_FALSE(path_barrier(bounds, {x, slope, bend}, first));
  x[3] = 1e4;  // far outside
  CHECK_FALSE(path_barrier(bounds, {x, slope, bend}, first));
}

TEST_CASE("jerk-limited path: nearly repeated points, joints that stand still, any size") {
  RandomStream random(205);
  const Arm arm = planar_arm();
  const PathLimits limits = all_limits(60.0);
  for (int n = 0; n < 40; ++n) {
    const double size = std::pow(10.0, random.uniform(-5, 1));
    std::vector<SplineKnot> knots;
    std::vector<double> gaps;
    for (int i = 0; i < 4; ++i) {
      Posture q = size * random.between(Posture::Constant(2, -1), Posture::Constant(2, 1));
      if (n % 3 == 0) q[1] = 0.2;
      if (i > 0 && random.index(3) == 0) q = knots.back().position + 1e-3 * q;
      if (i > 0) gaps.push_back(std::max((q - knots.back().position).norm(), 1e-9));
      knots.push_back({q});
    }
    const JointCurve path = spline_through(knots, gaps, SplineDegree::quintic, SplineEnds::natural);
    const auto found = jerk_limited_path(path, arm, limits);
    REQUIRE(found);
    CHECK(largest_use(found->motion, limits) <= 1 + 1e-9);
    CHECK(found->slowed < 1.1);
    CHECK(found->motion.duration() >=
          time_optimal(path, arm, limits)->motion.duration() * (1 - 5e-3));
    CHECK((found->motion.at(found->motion.duration()).position - knots.back().position).norm() <
          1e-9 * (1 + size));
  }
}

TEST_CASE("the barrier of a path: how much of a step its bounds leave, on every instruction set") {
  RandomStream random(206);
  for (int n = 0; n < 60; ++n) {
    constexpr std::size_t kPoints = 13;
    PathBounds bounds(kPoints);
    const auto some = [&](double most) {
      PathBounds::Values out(bounds.count, 0.0);
      for (std::size_t i = 0; i < kPoints; ++i) out[i] = random.uniform(-most, most);
      return out;
    };
    const bool bends = n % 3 == 0;
    bounds.linear.push_back({some(0.3), some(0.3), some(0.3)});
    if (bends) bounds.jerks.push_back({some(0.1), some(0.1), some(0.1)});
    PathState here{PathBounds::Values(bounds.count, 1.0), PathBounds::Values(bounds.count, 0.0),
                   PathBounds::Values(bounds.count, 0.0)};
    const double far = random.uniform(0.5, 20.0);
    const PathState way{some(far), some(far), some(far)};
    double first = -1.0;
    on_each_instruction_set([&](const std::string& name) {
      INFO(name << ", round " << n);
      const double share = share_within(bounds, here, way);
      REQUIRE(share > 0.0);
      REQUIRE(share <= 1.0);
      const auto kept = [&](double part) {
        PathState there = here;
        for (std::size_t i = 0; i < kPoints; ++i) {
          there.x[i] += part * way.x[i];
          there.slope[i] += part * way.slope[i];
          there.bend[i] += part * way.bend[i];
        }
        PathBarrier barrier;
        return path_barrier(bounds, there, barrier);
      };
      // Linear bounds are met exactly, others nearly.
      if (!bends) {
        CHECK(kept(share * (1.0 - 1e-9)));
        if (share < 1.0) CHECK_FALSE(kept(share * (1.0 + 1e-9)));
      } else if (share < 1.0) {
        CHECK(kept(0.2 * share));
      }
      if (first < 0.0) first = share;
      CHECK(share == first);
    });
  }
}
