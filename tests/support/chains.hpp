// Chains of screws to solve, for tests and benchmarks.
#pragma once

#include <Eigen/Geometry>
#include <Eigen/SVD>
#include <array>
#include <cmath>
#include <numbers>
#include <vector>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/trigonometric.hpp"
#include "elbowroom/reach/closed_solutions.hpp"
#include "elbowroom/reach/settle.hpp"
#include "support/cells.hpp"

namespace er::test {

using Angles = std::array<double, kMostClosedJoints>;

/// Standard Denavit-Hartenberg rows: a, alpha, d.
inline ScrewChain chain_of(const std::vector<std::array<double, 3>>& rows) {
  ScrewChain chain;
  Pose pose;
  for (const auto& [a, alpha, d] : rows) {
    chain.screws.push_back({pose.rotation.col(2), pose.position, true, chain.size()});
    pose = pose * Pose::at({0, 0, d}) * Pose{rotation_about(Vector3::UnitX(), alpha), {a, 0, 0}};
  }
  chain.tip = pose;
  return chain;
}

constexpr double kRight = 0.5 * std::numbers::pi;

/// A usual arm with a spherical wrist, shoulder and elbow offsets.
inline ScrewChain wrist_chain() {
  return chain_of({{0.04, kRight, 0.3},
                   {0.4, 0, 0.1},
                   {0.03, kRight, 0},
                   {0, -kRight, 0.39},
                   {0, kRight, 0},
                   {0, 0, 0.1}});
}

/// Axes 2 to 4 parallel, an offset wrist.
inline ScrewChain parallel_chain() {
  return chain_of({{0, kRight, 0.15},
                   {-0.6, 0, 0},
                   {-0.57, 0, 0},
                   {0, kRight, 0.13},
                   {0, -kRight, 0.115},
                   {0, 0, 0.09}});
}

/// R. Manseur and K. Doty, "A robot manipulator with 16 real inverse kinematic solution sets",
/// International Journal of Robotics Research 8(5), 1989; and a tip pose that has all sixteen.
inline ScrewChain sixteen_chain() {
  constexpr double kDegree = std::numbers::pi / 180;
  return chain_of({{0.3, kRight, 0},
                   {1, kDegree, 0},
                   {0, kRight, 0.2},
                   {1.5, kDegree, 0},
                   {0, kRight, 0},
                   {0, 0, 0}});
}
inline Pose sixteen_tip() {
  Matrix3 turn;
  turn << -0.760117, -0.641689, 0.102262, 0.133333, 0.0, 0.991071, -0.635959, 0.766965, 0.085558;
  return {nearest_rotation(turn), {-1.140175, 0, 0}};
}

inline Vector3 random_vector(RandomStream& random, double size) {
  return {random.uniform(-size, size), random.uniform(-size, size), random.uniform(-size, size)};
}

inline ScrewChain random_chain(RandomStream& random, int joints) {
  ScrewChain chain;
  for (int i = 0; i < joints; ++i)
    chain.screws.push_back(
        {random_vector(random, 1).normalized(), random_vector(random, 1), true, i});
  chain.tip = {rotation_from_rpy(random.uniform(-3, 3), 1, 2), random_vector(random, 0.5)};
  return chain;
}

/// Right angles, parallel and meeting axes, taken at random from few figures.
inline ScrewChain random_special_chain(RandomStream& random) {
  const auto pick = [&](const std::array<double, 4>& from) {
    return from[std::min<std::size_t>(3, static_cast<std::size_t>(4.0 * random.uniform(0, 1)))];
  };
  std::vector<std::array<double, 3>> rows;
  for (int i = 0; i < 6; ++i)
    rows.push_back({pick({0, 0, 0.4, 0.3}), pick({kRight, -kRight, kRight, -kRight}),
                    pick({0, 0, 0.2, 0.35})});
  return chain_of(rows);
}

/// Axes along those of a frame, or now and then between two of them, through few places: neighbours
/// may be parallel, which they never are in random_special_chain.
inline ScrewChain random_squared_chain(RandomStream& random, int joints) {
  const auto pick = [&](const std::array<double, 4>& from) {
    return from[std::min<std::size_t>(3, static_cast<std::size_t>(4.0 * random.uniform(0, 1)))];
  };
  ScrewChain chain;
  for (int i = 0; i < joints; ++i) {
    Vector3 axis = Vector3::Zero();
    const int along = std::min(2, static_cast<int>(random.uniform(0, 3)));
    axis[along] = pick({1, -1, 1, -1});
    if (random.uniform(0, 1) < 0.15) axis[(along + 1) % 3] = pick({1, -1, 0.5, 1});
    chain.screws.push_back(
        {axis.normalized(),
         {pick({0, 0, 0.3, 0.5}), pick({0, 0, 0.3, 0.4}), pick({0, 0, 0.2, 0.35})},
         true,
         i});
  }
  chain.tip = {Matrix3::Identity(), {0.6, pick({0, 0.1, 0, 0.1}), 0.2}};
  return chain;
}

/// The joints slide where the pattern, such as "STTTTT", has an S.
inline ScrewChain sliding_where(const char* pattern, ScrewChain chain) {
  for (Screw& screw : chain.screws) screw.turns = *pattern++ != 'S';
  return chain;
}

/// Three axes in a row through one point.
inline ScrewChain meeting_from(std::size_t first, ScrewChain chain) {
  for (const std::size_t k : {first + 1, first + 2})
    chain.screws[k].point = chain.screws[first].point;
  return chain;
}

/// Axes turned by 1e-9 to 1e-2, as a calibration or rounded angles leave them.
inline ScrewChain off_by_a_little(RandomStream& random, ScrewChain chain) {
  const double off = std::pow(10.0, random.uniform(-9, -2));
  for (Screw& screw : chain.screws)
    screw.axis = (screw.axis + random_vector(random, off)).normalized();
  return chain;
}

inline Angles random_angles(RandomStream& random) {
  Angles q{};
  for (double& value : q) value = random.uniform(-std::numbers::pi, std::numbers::pi);
  return q;
}

inline double distance_between(const ScrewChain& chain, const Angles& a, const Angles& b) {
  double most = 0.0;
  for (std::size_t k = 0; k < chain.screws.size(); ++k)
    most = std::max(most, std::abs(change_of(chain.screws[k], a[k], b[k])));
  return most;
}

inline bool has(const ScrewChain& chain, const ClosedSolutions& all, const Angles& q,
                double by = 1e-6) {
  for (const ClosedSolution& one : all)
    if (distance_between(chain, one.values, q) < by) return true;
  return false;
}

/// How far from singular a posture is: the Jacobian's smallest singular value.
inline double regularity(const ScrewChain& chain, const Angles& q) {
  return Eigen::JacobiSVD<Eigen::MatrixXd>(jacobian_of(chain, q.data()))
      .singularValues()
      .tail(1)[0];
}

/// An arm with these joints, each within a half turn or a metre either way, and a tool "tip".
inline Arm arm_of(const ScrewChain& chain) {
  ArmDescription d{.name = "chain", .links = {{.name = "base"}}};
  Vector3 last = Vector3::Zero();
  for (int k = 0; k < chain.size(); ++k) {
    const auto make = chain[k].turns ? turning : sliding;
    Link link = make("l" + std::to_string(k), chain[k].point - last, chain[k].axis, {});
    link.joint.limits.lower = chain[k].turns ? -2.0 * kRight : -1.0;
    link.joint.limits.upper = -link.joint.limits.lower;
    d.links.push_back(link);
    last = chain[k].point;
  }
  d.tools = {{.name = "tip", .tip = {chain.tip.rotation, chain.tip.position - last}}};
  return Arm::build(d);
}

}  // namespace er::test
