// Torque limits along paths: one joint in closed form, heavy trees by samples.
#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/spline.hpp"
#include "elbowroom/pace/grid_torques.hpp"
#include "elbowroom/pace/jerk_limited_path.hpp"
#include "elbowroom/pace/motor_use.hpp"
#include "elbowroom/pace/pace.hpp"
#include "elbowroom/pace/time_optimal.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

constexpr double kInertia = 2.5;  // of the bar about its joint, kg m^2

// A bar on one joint: about a vertical axis no gravity, about a horizontal one all of it.
Arm one_bar(const Vector3& axis, double torque, double friction = 0.0, double damping = 0.0) {
  Link base{.name = "base"};
  Link bar = turning("bar", {0, 0, 0}, axis, {{.shape = Box{{0.8, 0.05, 0.05}}}});
  bar.joint.limits.velocity = 50.0;
  bar.joint.limits.acceleration = 500.0;
  bar.joint.limits.jerk = 1e5;
  bar.joint.limits.torque = torque;
  bar.joint.friction = friction;
  bar.joint.damping = damping;
  const double mass = 10.0, at = 0.4;
  bar.inertial = {mass, {at, 0, 0}, (kInertia - mass * at * at) * Matrix3::Identity()};
  return Arm::build({.name = "bar", .links = {base, bar}, .tools = {{.name = "tip"}}});
}

PathLimits limits_of(const Arm& arm) {
  return {.velocity = arm.limits().velocity,
          .acceleration = arm.limits().acceleration,
          .torques = PathTorques{arm.limits().torque, {}}};
}

// Full torque up to some moment and full torque against it, found by stepping through time.
double by_stepping(double way, double torque, double friction, double damping) {
  constexpr double kStep = 1e-5;
  const auto run = [&](double switch_at) {
    double v = 0.0, q = 0.0, t = 0.0;
    while (q < switch_at) {
      v += kStep * (torque - friction - damping * v) / kInertia;
      q += kStep * v;
      t += kStep;
    }
    while (v > 0.0) {
      v += kStep * (-torque - friction - damping * v) / kInertia;
      q += kStep * v;
      t += kStep;
    }
    return std::make_pair(q, t);
  };
  double low = 0.0, high = way;
  for (int i = 0; i < 40; ++i) {
    const double middle = 0.5 * (low + high);
    (run(middle).first < way ? low : high) = middle;
  }
  return run(low).second;
}

Arm heavy_tree(RandomStream& random, double damping = 0.4, double torque = 70.0) {
  ArmDescription description = random_arm(random, 7).description();
  for (Link& link : description.links) {
    link.inertial = {random.uniform(0.5, 2.0),
                     {random.uniform(-0.1, 0.1), random.uniform(-0.1, 0.1), 0.05},
                     0.02 * Matrix3::Identity()};
    link.joint.limits.velocity = 3.0;
    link.joint.limits.acceleration = 40.0;
    link.joint.limits.jerk = 800.0;
    link.joint.damping = damping;
    link.joint.friction = 0.6;
    link.joint.limits.torque = torque;
  }
  return Arm::build(description);
}

// The largest share of a torque limit, at so many moments within each piece and one by one.
double sampled_torque(const Motion& motion, const Arm& arm, int samples = 21) {
  const ArmDynamics dynamics(arm);
  double most = 0.0;
  for (const CurvePiece& piece : motion.pieces())
    for (int i = 0; i < samples; ++i) {
      Posture q(arm.dof()), v(arm.dof()), a(arm.dof());
      for (int k = 0; k < arm.dof(); ++k) {
        const auto& c = piece.joints[static_cast<std::size_t>(k)];
        const double t = piece.duration * (i + 0.5) / samples;
        q[k] = value_at(c, t, 0);
        v[k] = value_at(c, t, 1);
        a[k] = value_at(c, t, 2);
      }
      most = std::max(
          most, dynamics.inverse(q, v, a).cwiseQuotient(arm.limits().torque).cwiseAbs().maxCoeff());
    }
  return most;
}

}  // namespace

TEST_CASE("torque limits: one joint without gravity, in closed form and by stepping through time") {
  const double torque = 20.0;
  const JointCurve path = lines_through({values({0.0}), values({2.0})});
  const auto duration = [&](const Arm& arm) {
    const auto found = time_optimal(path, arm, limits_of(arm), {.intervals = 2000});
    REQUIRE(found);
    return found->motion.duration();
  };
  CHECK(duration(one_bar(Vector3::UnitZ(), torque)) ==
        Approx(2.0 * std::sqrt(2.0 * kInertia / torque)).epsilon(1e-3));
  // Friction helps to brake: up at (T - f) / I, down at (T + f) / I.
  const double friction = 6.0;
  const double up = (torque - friction) / kInertia, down = (torque + friction) / kInertia;
  const double peak = std::sqrt(2.0 * 2.0 * up * down / (up + down));
  CHECK(duration(one_bar(Vector3::UnitZ(), torque, friction)) ==
        Approx(peak / up + peak / down).epsilon(1e-3));
  const double damping = 4.0;
  CHECK(duration(one_bar(Vector3::UnitZ(), torque, friction, damping)) ==
        Approx(by_stepping(2.0, torque, friction, damping)).epsilon(3e-3));
}

TEST_CASE("torque limits: what is too heavy to hold is a no, just enough is slow but moves") {
  const double weight = 10.0 * 0.4 * 9.80665;
  const std::vector<Posture> level{values({0.1}), values({-0.2})};
  const Arm weak = one_bar(Vector3::UnitY(), 0.98 * weight);
  for (const Profile profile : kAllProfiles) {
    INFO(name_of(profile));
    const auto no = pace(level, weak, {.profile = profile});
    REQUIRE_FALSE(no);
    CHECK(no.reason().cause == Cause::too_heavy);
    CHECK_THAT(no.reason().text, Contains("base_to_bar") && Contains("however slowly"));
    const Arm strong = one_bar(Vector3::UnitY(), 1.05 * weight);
    const auto yes = pace(level, strong, {.profile = profile});
    REQUIRE(yes);
    CHECK(yes->torque.share <= 1 + 1e-6);
    CHECK(yes->torque.share > 0.99);
    CHECK(sampled_torque(yes->motion, strong) < 1 + 1e-3);
    CHECK(pace(level, one_bar(Vector3::UnitY(), 1e4), {.profile = profile})->motion.duration() <
          yes->motion.duration());
  }
}

TEST_CASE("torque limits: heavy trees, by samples, with and without jerk's limit") {
  RandomStream random(301);
  int paced = 0;
  for (int n = 0; n < 8; ++n) {
    const Arm arm = heavy_tree(random);
    std::vector<SplineKnot> knots;
    for (int i = 0; i < 4; ++i) knots.push_back({0.5 * random_posture(random, arm)});
    const JointCurve path =
        spline_through(knots, {1.0, 1.0, 1.0}, SplineDegree::quintic, SplineEnds::natural);
    PathLimits limits = limits_of(arm);
    const auto quick = time_optimal(path, arm, limits);
    if (!quick) {
      CHECK(quick.reason().cause == Cause::too_heavy);
      continue;
    }
    ++paced;
    CHECK(sampled_torque(quick->motion, arm) <= 1 + 1e-3);
    CHECK(torque_use(quick->motion, arm).share <= 1 + 1e-3);
    CHECK(quick->slowed < 1.02);
    PathLimits unlimited = limits;
    unlimited.torques.reset();
    CHECK(time_optimal(path, arm, unlimited)->motion.duration() <=
          quick->motion.duration() * 1.001);
    const auto fine = time_optimal(path, arm, limits, {.intervals = 32000});
    CHECK(quick->motion.duration() == Approx(fine->motion.duration()).epsilon(1e-3));
    limits.jerk = arm.limits().jerk;
    const auto smooth = jerk_limited_path(path, arm, limits);
    REQUIRE(smooth);
    CHECK(sampled_torque(smooth->motion, arm) <= 1 + 1e-3);
    CHECK(smooth->motion.duration() > quick->motion.duration() * 0.995);
  }
  CHECK(paced >= 3);
}

TEST_CASE("torque limits: peaks within long pieces are found, however few these are") {
  RandomStream random(303);
  for (const Profile profile : kAllProfiles) {
    int slowed = 0;
    double at_limit = 0.0;
    for (int n = 0; n < 30; ++n) {
      const Arm arm = heavy_tree(random, 0.4, 38.0);
      std::vector<Posture> waypoints;
      for (int i = 0; i < 2 + n % 2; ++i) waypoints.push_back(0.9 * random_posture(random, arm));
      const auto paced = pace(waypoints, arm, {.profile = profile});
      if (!paced) continue;
      INFO(name_of(profile) << ' ' << n);
      const int samples = paced->motion.pieces().size() > 100 ? 9 : 200;
      const double sampled = sampled_torque(paced->motion, arm, samples);
      CHECK(sampled <= 1 + 1e-5);
      CHECK(paced->torque.share >= sampled * (1 - 1e-5));
      CHECK(paced->torque.share <= 1 + 1e-5);
      slowed += !paced->slowed.empty();
      at_limit = std::max(at_limit, sampled);
    }
    INFO(name_of(profile));
    if (profile != Profile::time_optimal) CHECK(slowed > 0);
    CHECK(at_limit > 0.99);  // slowed by no more than it takes
  }
}

TEST_CASE("torque limits: passing over intervals of a grid leaves out none that counts") {
  RandomStream random(302);
  int slowed = 0, too_heavy = 0;
  for (int n = 0; n < 300; ++n) {
    const bool damped = n % 10 == 0;
    const Arm arm = heavy_tree(random, damped ? 0.4 : 0.0);
    std::vector<SplineKnot> knots;
    for (int i = 0; i < 4; ++i) knots.push_back({random_posture(random, arm)});
    const JointCurve path =
        spline_through(knots, {0.5, 1.0, 2.0}, SplineDegree::quintic, SplineEnds::natural);
    const PathGrid grid = path_grid(path, {16 + n % 7, 16 + n % 5, 40});
    std::vector<double> x(grid.points());
    const double bumps = random.uniform(1.0, 9.0);
    for (std::size_t i = 0; i < x.size(); ++i) {
      const double share = static_cast<double>(i) / static_cast<double>(x.size() - 1);
      x[i] = 4.0 * share * (1.0 - share) * (1.2 + std::sin(bumps * share));
    }
    const PacedGrid paced(grid, x);
    const ArmDynamics dynamics(arm);
    const PathEfforts efforts =
        path_efforts(dynamics, {grid.position, grid.slope, grid.curvature, grid.slope}, true);
    std::vector<CurvePiece> pieces;
    add_grid_pieces(paced, 0, grid.intervals(), 1.0, pieces);
    const Motion motion(pieces);
    REQUIRE(pieces.size() < 100);  // so that as much is looked at in each, however many there are
    // The limits are just what is asked for at the ends of the pieces, or a little less.
    Posture most = Posture::Constant(arm.dof(), 1e-3);
    for (const CurvePiece& piece : pieces)
      for (const double share : {0.0, 1.0}) {
        JointState state;
        state_in(piece, share * piece.duration, state);
        most = most.cwiseMax(
            dynamics.inverse(state.position, state.velocity, state.acceleration).cwiseAbs());
      }
    most = most.cwiseMax((n % 3 == 0 ? 0.999 : 1.001) *
                         efforts.still.cwiseAbs().colwise().maxCoeff().transpose());
    const double so_far = n % 2 == 0 ? 1.0 : 1.005;
    const auto all = stretch_for_torque(motion, arm, most, dynamics, TorqueMoments::between_ends);
    const auto found = stretch_for_torque(paced, efforts, arm, dynamics, most, so_far);
    INFO(n);
    REQUIRE(bool(found) == bool(all));
    too_heavy += !all;
    if (!all) continue;
    CHECK(*found == std::max(so_far, *all));
    slowed += *all > so_far;
  }
  CHECK(slowed > 30);
  CHECK(too_heavy > 10);
}

TEST_CASE("torque limits: slowing is by just so much") {
  const Arm arm = one_bar(Vector3::UnitZ(), 20.0, 3.0, 2.0);
  const auto fast = pace({values({0.0}), values({1.0})}, one_bar(Vector3::UnitZ(), 1e6));
  REQUIRE(fast);
  const double factor =
      stretch_for_torque(fast->motion, arm, arm.limits().torque, ArmDynamics(arm)).value();
  CHECK(factor > 1.5);
  CHECK(torque_use(fast->motion.stretched(factor), arm).share == Approx(1.0).epsilon(1e-6));
  CHECK(torque_use(fast->motion.stretched(0.999 * factor), arm).share > 1.0);
  CHECK(*stretch_for_torque(fast->motion.stretched(1.01 * factor), arm, arm.limits().torque,
                            ArmDynamics(arm)) == 1.0);
}

TEST_CASE("torque limits: what falls is not called light") {
  // Falling by gravity alone takes no torque, and could neither be slowed down nor stopped.
  const Arm arm = one_bar(Vector3::UnitY(), 0.5 * 10.0 * 0.4 * 9.80665);
  const double a = 10.0 * 0.4 * 9.80665 / kInertia;
  const Motion falling({{0.2, {{0.0, 0.0, 0.5 * a, 0.0, 0.0, 0.0}}}});
  CHECK(torque_use(falling, arm).share < 0.3);
  const auto no = stretch_for_torque(falling, arm, arm.limits().torque, ArmDynamics(arm));
  REQUIRE_FALSE(no);
  CHECK(no.reason().cause == Cause::too_heavy);
}

TEST_CASE("torque limits without the masses that they need are said not to be looked at") {
  ArmDescription description = one_bar(Vector3::UnitZ(), 20.0).description();
  description.links.back().inertial = {};
  const Arm arm = Arm::build(description);
  const auto paced = pace({values({0.0}), values({1.0})}, arm);
  REQUIRE(paced);
  CHECK_THAT(paced->report(arm),
             Contains("torque limits are not looked at: link bar states no mass"));
}
