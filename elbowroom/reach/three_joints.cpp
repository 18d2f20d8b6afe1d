#include "elbowroom/reach/three_joints.hpp"

#include <Eigen/Geometry>
#include <Eigen/LU>
#include <algorithm>
#include <cmath>
#include <limits>

#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/closed_solutions.hpp"

namespace er {
namespace {

// How fast a joint moves a point.
Vector3 velocity(const Screw& joint, const Vector3& point) {
  return joint.turns ? joint.axis.cross(point - joint.point) : joint.axis;
}

// How far a way is from the nearest of some, rad or m of the joint that is furthest.
double apart(const ThreeScrews& joints, const ThreeJoints& ways, const ThreeJoints::Way& way) {
  double least = std::numeric_limits<double>::infinity();
  for (int i = 0; i < ways.count; ++i) {
    double most = 0.0;
    const auto& other = ways.ways[static_cast<std::size_t>(i)].value;
    for (std::size_t k = 0; k < 3; ++k)
      most = std::max(most, std::abs(change_of(joints[k], other[k], way.value[k])));
    least = std::min(least, most);
  }
  return least;
}

}  // namespace

int free_turn(const ThreeScrews& joints, const Vector3& point, const Vector3& after_third,
              const Vector3& goal) {
  const auto leaves = [](const Screw& joint, const Vector3& at) {
    return joint.turns && distance_from(joint, at) < kHalfOfDigits;
  };
  if (leaves(joints[0], goal)) return 0;
  if (leaves(joints[1], after_third)) return 1;
  if (leaves(joints[2], point)) return 2;
  return -1;
}

double refine(const ThreeScrews& joints, const Vector3& point, const Vector3& goal, int steps,
              std::array<double, 3>& value) {
  constexpr double kExact = 1e-14;  // m
  constexpr double kShort = 1e-5;   // rad and m; after so short a step only its square is left
  constexpr double kRegular = 1e-6;
  double left = std::numeric_limits<double>::infinity();
  std::array<double, 3> next = value;
  for (int step = 0;; ++step) {
    std::array<Vector3, 4> at;  // where each joint takes it, and the point itself
    at[3] = point;
    for (std::size_t k = 3; k-- > 0;) at[k] = motion_of(joints[k], next[k]) * at[k + 1];
    const Vector3 way = goal - at[0];
    if (way.norm() >= left) break;
    value = next;
    left = way.norm();
    if (left < kExact || step == steps) break;
    // Columns as the world sees them: each joint's where those before have brought it.
    Matrix3 columns;
    Matrix3 before = Matrix3::Identity();
    for (std::size_t k = 0; k < 3; ++k) {
      columns.col(static_cast<Eigen::Index>(k)) = before * velocity(joints[k], at[k]);
      if (joints[k].turns) before = before * rotation_about(joints[k].axis, next[k]);
    }
    const double size = columns.colwise().norm().prod();
    if (std::abs(columns.determinant()) < kRegular * size) break;
    const Vector3 by = columns.inverse() * way;
    for (std::size_t k = 0; k < 3; ++k) next[k] += by[static_cast<Eigen::Index>(k)];
    if (by.norm() < kShort) {
      value = next;
      return left * kShort;
    }
  }
  return left;
}

void keep_ways(const ThreeScrews& joints, const Vector3& point, const Vector3& goal,
               const WayCandidates& candidates, ThreeJoints& out) {
  constexpr int kSteps = 6;
  constexpr int kMostWays = 4;    // the degree of the equation
  constexpr double kSame = 1e-7;  // rad or m
  constexpr double kWellApart = 1e-3;
  out.count = 0;
  int wanted = 0;
  double nearest = std::numeric_limits<double>::infinity();  // of two ways
  for (int i = 0; i < candidates.count; ++i) {
    auto [way, is_extra] = candidates.all[static_cast<std::size_t>(i)];
    // Of a family, one is known to half of the digits.
    const double met = way.free >= 0 ? kHalfOfDigits : kClosedMet;
    const bool is_way = refine(joints, point, goal, kSteps, way.value) < met;
    const double from_others = apart(joints, out, way);
    if (is_way && from_others > kSame) {
      out.add(way.value[0], way.value[1], way.value[2], way.free);
      nearest = std::min(nearest, from_others);
    }
    if (!is_extra && way.free < 0) ++wanted;
  }
  // Each root leads to a way of its own; or there cannot be more.
  out.sure =
      (candidates.sure && out.count >= wanted) || (out.count == kMostWays && nearest > kWellApart);
}

}  // namespace er
