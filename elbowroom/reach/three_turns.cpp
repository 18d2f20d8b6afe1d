#include "elbowroom/reach/three_turns.hpp"

#include <Eigen/Geometry>
#include <cmath>
#include <vector>

#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/subproblems.hpp"

namespace er {
namespace {

Vector3 turned(const Screw& screw, double angle, const Vector3& point) {
  return screw.point + rotation_about(screw.axis, angle) * (point - screw.point);
}

}  // namespace

ThreeTurnSolver::ThreeTurnSolver(const ScrewChain& chain, const Vector3& point)
    : axes_{chain[0], chain[1], chain[2]}, point_(point) {
  if (are_parallel(axes_[1], axes_[2])) {
    path_ = Path::last_parallel;
    return;
  }
  if (are_parallel(axes_[0], axes_[1])) {
    path_ = Path::first_parallel;
    return;
  }
  const CommonNormal normal = common_normal(axes_[0], axes_[1]);
  foot_first_ = normal.on_first;
  foot_second_ = normal.on_second;
  path_ = normal.length() < kAxisTolerance ? Path::first_meet : Path::general;
}

const char* ThreeTurnSolver::path() const {
  switch (path_) {
    case Path::last_parallel:
      return "axes 2 and 3 parallel";
    case Path::first_parallel:
      return "axes 1 and 2 parallel";
    case Path::first_meet:
      return "axes 1 and 2 meeting";
    case Path::general:
      return "axes 1 to 3 askew";
  }
  return "";
}

void ThreeTurnSolver::solve(const Vector3& goal, ThreeTurns& out) const {
  out.count = 0;
  switch (path_) {
    case Path::last_parallel:
      return last_parallel(goal, out);
    case Path::first_parallel:
      return first_parallel(goal, out);
    case Path::first_meet:
      return first_meet(goal, out);
    case Path::general:
      return general(goal, out);
  }
}

// Turns about axes 2 and 3 keep the height along them, so the first turn has to bring it about.
void ThreeTurnSolver::last_parallel(const Vector3& goal, ThreeTurns& out) const {
  const auto& [a, b, c] = axes_;
  const Vector3 from = goal - a.point;  // turned back by the first angle
  const TwoAngles firsts = turns_to_height(a.axis, from, b.axis, b.axis.dot(point_ - a.point));
  const Vector3 second_at = b.point;
  for (int i = 0; i < firsts.count; ++i) {
    const double first = -firsts.angle[i];
    const Vector3 there = turned(a, -first, goal);
    // Distance from axis 2, across it only.
    const auto across = [&](const Vector3& v) { return Vector3(v - b.axis.dot(v) * b.axis); };
    const double radius = across(there - second_at).norm();
    const TwoAngles thirds =
        turns_to_distance(c.axis, across(point_ - c.point), across(second_at - c.point), radius);
    for (int k = 0; k < thirds.count; ++k) {
      const Vector3 x = turned(c, thirds.angle[k], point_);
      const double second = turn_onto(b.axis, x - second_at, there - second_at);
      out.add(first, second, thirds.angle[k], firsts.any ? 0 : radius < 1e-9 ? 1 : -1);
    }
  }
}

// Turns about axes 1 and 2 keep the height along them, so the third has to bring it about.
void ThreeTurnSolver::first_parallel(const Vector3& goal, ThreeTurns& out) const {
  const auto& [a, b, c] = axes_;
  const TwoAngles thirds =
      turns_to_height(c.axis, point_ - c.point, a.axis, a.axis.dot(goal - c.point));
  const auto across = [&](const Vector3& v) { return Vector3(v - a.axis.dot(v) * a.axis); };
  for (int i = 0; i < thirds.count; ++i) {
    const Vector3 x = turned(c, thirds.angle[i], point_);
    const TwoAngles seconds = turns_to_distance(
        b.axis, across(x - b.point), across(a.point - b.point), across(goal - a.point).norm());
    for (int k = 0; k < seconds.count; ++k) {
      const Vector3 y = turned(b, seconds.angle[k], x);
      out.add(turn_onto(a.axis, y - a.point, goal - a.point), seconds.angle[k], thirds.angle[i],
              thirds.any    ? 2
              : seconds.any ? 1
                            : -1);
    }
  }
}

// Turns about axes 1 and 2 keep the distance from where they meet.
void ThreeTurnSolver::first_meet(const Vector3& goal, ThreeTurns& out) const {
  const auto& [a, b, c] = axes_;
  const Vector3 meet = 0.5 * (foot_first_ + foot_second_);
  const TwoAngles thirds =
      turns_to_distance(c.axis, point_ - c.point, meet - c.point, (goal - meet).norm());
  for (int i = 0; i < thirds.count; ++i) {
    const Vector3 x = turned(c, thirds.angle[i], point_);
    const TwoTurns two = two_turns(a.axis, b.axis, x - meet, goal - meet);
    for (int k = 0; k < two.count; ++k)
      out.add(two.first[k], two.second[k], thirds.angle[i], two.any ? 0 : thirds.any ? 2 : -1);
  }
}

void ThreeTurnSolver::general(const Vector3& goal, ThreeTurns& out) const {
  // After the third turn let u be the point seen from the foot on axis 2; n points from the foot on
  // axis 1 to that on axis 2, a apart, and t = axis 2 x n. Distance and height seen from axis 1
  // after the second turn give u.n and u.t, and the second turn keeps their square sum: an equation
  // of degree 2 in the cosine and sine of the third angle.
  constexpr int kSamples = 8;
  std::vector<double> values;
  const auto& [first, second, third] = axes_;
  const Vector3 between = foot_second_ - foot_first_;
  const double a = between.norm();
  const Vector3 n = between / a;
  const double lean = first.axis.dot(second.axis.cross(n));
  const double cosine = first.axis.dot(second.axis);
  const Vector3 wanted = goal - foot_first_;
  for (int i = 0; i < kSamples; ++i) {
    const double angle = 2.0 * 3.14159265358979323846 * i / kSamples;
    const Vector3 u = turned(third, angle, point_) - foot_second_;
    const double height = second.axis.dot(u);
    const double un = (wanted.squaredNorm() - a * a - u.squaredNorm()) / (2.0 * a);
    const double ut = (first.axis.dot(wanted) - height * cosine) / lean;
    values.push_back(un * un + ut * ut - (u.squaredNorm() - height * height));
  }
  for (const double angle : TrigPolynomial::through(values, 2).roots()) finish(angle, goal, out);
}

void ThreeTurnSolver::finish(double angle, const Vector3& goal, ThreeTurns& out) const {
  const auto& [first, second, third] = axes_;
  const Vector3 n = (foot_second_ - foot_first_).normalized();
  const Vector3 t = second.axis.cross(n);
  const double a = (foot_second_ - foot_first_).norm();
  const Vector3 u = turned(third, angle, point_) - foot_second_;
  const Vector3 wanted = goal - foot_first_;
  const double un = (wanted.squaredNorm() - a * a - u.squaredNorm()) / (2.0 * a);
  const double ut = (first.axis.dot(wanted) - second.axis.dot(u) * first.axis.dot(second.axis)) /
                    first.axis.dot(t);
  const double turn = std::atan2(ut, un) - std::atan2(u.dot(t), u.dot(n));
  const Vector3 y = foot_second_ + rotation_about(second.axis, turn) * u;
  out.add(turn_onto(first.axis, y - foot_first_, wanted), turn, angle, -1);
}

}  // namespace er
