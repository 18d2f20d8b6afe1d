// pacing [QUESTIONS]: routes through five cluttered scenes, their corners rounded, and time put on
// them; and what a profile costs by itself. One thread, medians.
#include <fmt/format.h>

#include <array>
#include <cmath>
#include <cstdlib>
#include <vector>

#include "by_turns.hpp"
#include "elbowroom/base/quantile.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/base/spline.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/collision/curve_sweep.hpp"
#include "elbowroom/dynamics/inverse_dynamics.hpp"
#include "elbowroom/pace/jerk_limited_path.hpp"
#include "elbowroom/pace/line_profile.hpp"
#include "elbowroom/pace/pace.hpp"
#include "elbowroom/pace/state_move.hpp"
#include "elbowroom/pace/time_optimal.hpp"
#include "elbowroom/route/route.hpp"
#include "support/clutter.hpp"
#include "support/plain_time_optimal.hpp"

namespace {

using namespace er;

constexpr int kJoints = 7;

Limits limits_of(int joints) {
  Limits limits;
  limits.velocity = Posture::Constant(joints, 2.5);
  limits.acceleration = Posture::Constant(joints, 10.0);
  limits.jerk = Posture::Constant(joints, 100.0);
  return limits;
}

// Microseconds of one call, the median of many.
template <class Work>
double microseconds(int calls, Work work) {
  std::vector<double> rounds;
  for (int round = 0; round < 15; ++round) {
    const Stopwatch watch;
    for (int i = 0; i < calls; ++i) work(i);
    rounds.push_back(1e6 * watch.seconds() / calls);
  }
  return quantile(rounds, 0.5);
}

void measure_profiles() {
  RandomStream random(5);
  const Limits limits = limits_of(kJoints);
  const auto axes = axis_limits(limits);
  std::vector<Posture> ends;
  for (int i = 0; i < 256; ++i)
    ends.push_back(
        random.between(Posture::Constant(kJoints, -2.0), Posture::Constant(kJoints, 2.0)));
  double sum = 0.0;
  const auto alone = [&](double way) { return JerkLimited({}, {way, 0.0, 0.0}, axes.front()); };
  const auto at = [&](int i) -> const Posture& { return ends[static_cast<std::size_t>(i) % 256]; };
  fmt::print("seven joints, jerk-limited, from rest to rest:\n");
  fmt::print("  durations only           {:8.3f} us\n", microseconds(20000, [&](int i) {
               for (int k = 0; k < kJoints; ++k)
                 sum += rest_to_rest_time(at(i)[k], 2.5, 10.0, 100.0);
             }));
  const Posture rest = Posture::Zero(kJoints);
  JointState from{rest, rest, rest, {}};
  JointState to = from;
  const auto one_after_the_other = [&](int i) {
    std::array<JerkLimited, kJoints> joints{alone(at(i)[0]), alone(at(i)[1]), alone(at(i)[2]),
                                            alone(at(i)[3]), alone(at(i)[4]), alone(at(i)[5]),
                                            alone(at(i)[6])};
    double time = 0.0;
    for (const JerkLimited& joint : joints) time = std::max(time, joint.shortest());
    for (const JerkLimited& joint : joints) sum += joint.profile(time).duration();
  };
  for (const bool together : {false, true}) {
    const bench::ByTurns took = bench::by_turns(101, 2000, one_after_the_other, [&](int i) {
      to.position = at(i);
      sum += StateMove(from, to, axes, {.together = together}).duration();
    });
    fmt::print("  {}, with all pieces {:8.3f} us, {:.3f} of plain: {:.3f} us\n",
               together ? "in step" : "each in its own time", took.ours, took.share, took.plain);
  }
  fmt::print("  on the straight line, as a motion {:8.3f} us\n", microseconds(2000, [&](int i) {
               sum += Motion(jerk_limited_line(rest, at(i), limits, 1.0)).duration();
             }));
  to.position = at(3);
  const StateMove move(from, to, axes);
  const Motion motion = move.motion();
  JointState state;
  fmt::print("  one sample               {:8.3f} us\n", microseconds(20000, [&](int i) {
               motion.at(motion.duration() * (i % 1000) / 1000.0, state);
               sum += state.position[0];
             }));
  if (std::isnan(sum)) fmt::print("{}\n", sum);
}

Arm heavy_arm() {
  ArmDescription description = test::clutter_arm().description();
  for (Link& link : description.links)
    link.inertial = {2.0, {0.02, 0.01, 0.1}, 0.01 * Matrix3::Identity()};
  return Arm::build(description);
}

void measure_dynamics() {
  RandomStream random(7);
  const Arm arm = heavy_arm();
  const ArmDynamics dynamics(arm);
  const Posture most = Posture::Constant(arm.dof(), 1.5);
  const Posture q = random.between(-most, most), v = random.between(-most, most),
                a = random.between(-most, most);
  double sum = 0.0;
  fmt::print("inverse dynamics of seven joints and a gripper ({} links): {:.3f} us\n",
             arm.links().size(),
             microseconds(2000, [&](int) { sum += dynamics.inverse(q, v, a)[0]; }));
  constexpr int kRows = 1000;
  PostureRows position(kRows, arm.dof()), effort(kRows, arm.dof());
  for (int i = 0; i < kRows; ++i) position.row(i) = random.between(-most, most).transpose();
  fmt::print("  each of {} in lanes: {:.3f} us\n", kRows, microseconds(20, [&](int) {
                                                            dynamics.inverse(position, position,
                                                                             position, effort);
                                                            sum += effort(0, 0);
                                                          }) / kRows);
  if (std::isnan(sum)) fmt::print("{}\n", sum);
}

// The same as time_optimal() for joints alone, without vectors: one point, interval and piece after
// the other.
double plain_time_optimal(const JointCurve& path, const Limits& limits, int intervals) {
  const Eigen::Index points = intervals + 1;
  PostureRows position(points, path.dof()), slope(position), curvature(position);
  std::vector<double> lengths(static_cast<std::size_t>(intervals), path.duration() / intervals);
  std::vector<double> most;
  JointState state;
  for (Eigen::Index i = 0; i < points; ++i) {
    path.at(path.duration() * static_cast<double>(i) / intervals, state);
    position.row(i) = state.position.transpose();
    slope.row(i) = state.velocity.transpose();
    curvature.row(i) = state.acceleration.transpose();
    const double use = state.velocity.cwiseQuotient(limits.velocity).cwiseAbs().maxCoeff();
    most.push_back(1.0 / (use * use));
  }
  GridLimits bounds{lengths, most};
  for (Eigen::Index k = 0; k < path.dof(); ++k)
    bounds.linear.push_back({slope.col(k).data(), curvature.col(k).data(), nullptr,
                             -limits.acceleration[k], limits.acceleration[k]});
  const std::vector<double> x = test::PlainProgress(bounds).quickest();
  std::vector<CurvePiece> pieces;
  for (Eigen::Index i = 0; i + 1 < points; ++i) {
    const auto at = static_cast<std::size_t>(i);
    const double u = (x[at + 1] - x[at]) / (2.0 * lengths[at]);
    CurvePiece piece{2.0 * lengths[at] / (std::sqrt(x[at]) + std::sqrt(x[at + 1])), {}};
    const auto end = [&](Eigen::Index p, Eigen::Index k) {
      const double square = x[static_cast<std::size_t>(p)];
      return EndValues{position(p, k), std::sqrt(square) * slope(p, k),
                       u * slope(p, k) + square * curvature(p, k)};
    };
    for (Eigen::Index k = 0; k < path.dof(); ++k)
      piece.joints.push_back(quintic_between(end(i, k), end(i + 1, k), piece.duration));
    pieces.push_back(std::move(piece));
  }
  const Motion motion(std::move(pieces));
  const MotionPeaks peaks = peaks_of(motion, limits);
  const double slowed = std::max(peaks.velocity.share, std::sqrt(peaks.acceleration.share));
  return motion.stretched(std::max(slowed, 1.0)).duration();
}

// A smooth path through ten postures, as a quintic spline.
JointCurve smooth_path() {
  RandomStream random(6);
  std::vector<SplineKnot> knots;
  for (int i = 0; i < 10; ++i)
    knots.push_back(
        {random.between(Posture::Constant(kJoints, -1.5), Posture::Constant(kJoints, 1.5))});
  std::vector<double> gaps;
  for (std::size_t i = 0; i + 1 < knots.size(); ++i)
    gaps.push_back((knots[i + 1].position - knots[i].position).norm());
  return spline_through(knots, gaps, SplineDegree::quintic, SplineEnds::natural);
}

// Beside the plain way for joints alone, whatever the limits are.
template <class Ours>
std::string beside_plain(int turns, int calls, const Ours& ours) {
  static const JointCurve path = smooth_path();
  static const Limits limits = limits_of(kJoints);
  const bench::ByTurns took = bench::by_turns(
      turns, calls, [&](int) { (void)plain_time_optimal(path, limits, 1005); }, ours);
  return fmt::format("{:9.1f} us, {:.3f} of {:.1f} us", took.ours, took.share, took.plain);
}

void measure_spline() {
  const JointCurve path = smooth_path();
  const Limits limits = limits_of(kJoints);
  const Arm arm = test::clutter_arm();
  PathLimits bounds{.velocity = limits.velocity, .acceleration = limits.acceleration};
  fmt::print("time-optimal through 10 postures, seven joints, beside plain, 1005 intervals:\n");
  // The most first: a program that never held more memory gets it anew from the system each time.
  for (const int intervals : {16000, 4000, 1000, 250}) {
    const auto ask = [&](int) {
      return time_optimal(path, arm, bounds, {.intervals = intervals, .refinements = 0}).value();
    };
    const TimeOptimal found = ask(0);
    fmt::print("  {:6d} intervals: {}; {:.6f} s, slowed by {:.4f} %\n", found.intervals,
               beside_plain(41, 10, ask), found.motion.duration(), 100.0 * (found.slowed - 1.0));
  }
  fmt::print("  plain: {:.6f} s\n", plain_time_optimal(path, limits, 1005));
  bounds.jerk = limits.jerk;
  fmt::print("the same with jerk limits:\n");
  for (const int intervals : {100, 300, 600, 1000, 4000}) {
    const auto ask = [&](int) {
      return jerk_limited_path(path, arm, bounds, {.intervals = intervals, .refinements = 0})
          .value();
    };
    const JerkLimitedPath found = ask(0);
    fmt::print("  {:6d} intervals: {}; {} steps, {:.6f} s, slowed by {:.4f} %\n", found.intervals,
               beside_plain(15, 3, ask), found.steps, found.motion.duration(),
               100.0 * (found.slowed - 1.0));
  }
}

// The same path for an arm with masses, whose motors are the limit.
void measure_torques() {
  const Arm arm = heavy_arm();
  const JointCurve path = smooth_path();
  const Limits limits = limits_of(arm.dof());
  PathLimits bounds{.velocity = limits.velocity, .acceleration = 5.0 * limits.acceleration};
  const double without = time_optimal(path, arm, bounds)->motion.duration();
  bounds.torques = PathTorques{Posture::Constant(arm.dof(), 160.0), {}};
  const auto converged = time_optimal(path, arm, bounds, {.intervals = 32000});
  if (!converged) return fmt::print("{}\n", converged.reason().text);
  fmt::print("with torque limits:\n");
  for (const int intervals : {3000, 1000}) {
    const auto ask = [&](int) {
      return time_optimal(path, arm, bounds, {.intervals = intervals, .refinements = 0}).value();
    };
    const TimeOptimal found = ask(0);
    const double duration = found.motion.duration();
    fmt::print(
        "  {:6d} intervals: {}; {:.4f} s (without: {:.4f} s), slowed by {:.4f} %, {:.4f} % longer "
        "than with 32,000\n",
        found.intervals, beside_plain(41, 10, ask), duration, without, 100.0 * (found.slowed - 1.0),
        100.0 * (duration / converged->motion.duration() - 1.0));
  }
}

void measure_routes(test::Clutter clutter, int count) {
  const CellQuery query(test::clutter_cell(clutter), "");
  const Limits limits = limits_of(query.arm().dof());
  const PathLimits bounds{.velocity = limits.velocity, .acceleration = limits.acceleration};
  std::vector<double> rounding, pacing, proving, gains;
  int corners = 0, rounded = 0, unproved = 0, routes = 0;
  SweepMemory memory(query);
  for (const auto& question : test::clutter_questions(query, clutter, count, test::kClearance)) {
    const auto route = find_route(query, question.start, question.goals,
                                  {.clearance = test::kClearance, .least_within = 0.0});
    if (!route || route->waypoints.size() < 3) continue;
    ++routes;
    const Stopwatch watch;
    const RoundedPath path = round_corners(
        query, route->waypoints, {.clearance = test::kClearance, .bounds = {.angle = 0.2}});
    rounding.push_back(1e6 * watch.seconds());
    const Stopwatch second;
    std::vector<Motion> motions;
    double time = 0.0;
    for (const JointCurve& stretch : path.stretches) {
      motions.push_back(time_optimal(stretch, query.arm(), bounds)->motion);
      time += motions.back().duration();
    }
    pacing.push_back(1e6 * second.seconds());
    const Stopwatch third;
    for (const Motion& motion : motions)
      unproved += sweep_curve(query, motion, test::kClearance, memory).free ? 0 : 1;
    proving.push_back(1e6 * third.seconds());
    for (const Corner& corner : path.corners) rounded += corner.cut > 0.0 ? 1 : 0;
    corners += static_cast<int>(path.corners.size());
    double stopping = 0.0;
    for (std::size_t i = 1; i < route->waypoints.size(); ++i)
      stopping += Motion(trapezoid_line(route->waypoints[i - 1], route->waypoints[i], limits, 1.0))
                      .duration();
    gains.push_back(time / stopping);
  }
  fmt::print(
      "{:<20} {} routes with corners: {} of {} corners rounded, {} motions not proved; "
      "rounding {:.0f} us, time {:.0f} us, proof {:.0f} us; {:.0f} % of the time with stops\n",
      name_of(clutter), routes, rounded, corners, unproved, quantile(rounding, 0.5),
      quantile(pacing, 0.5), quantile(proving, 0.5), 100.0 * quantile(gains, 0.5));
}

}  // namespace

int main(int argc, char** argv) {
  const int count = argc > 1 ? std::atoi(argv[1]) : 40;
  measure_profiles();
  measure_dynamics();
  measure_spline();
  measure_torques();
  for (const test::Clutter clutter : test::kAllClutter) measure_routes(clutter, count);
  return 0;
}
