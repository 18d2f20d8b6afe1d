#include "elbowroom/reach/three_turns.hpp"

#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "elbowroom/base/trigonometric.hpp"
#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/subproblems.hpp"

namespace er {
namespace {

Vector3 turned(const Screw& screw, double angle, const Vector3& point) {
  return motion_of(screw, angle) * point;
}

}  // namespace

void turns_in_plane(const Screw& first, const Screw& second, const Screw& third, const Pose& motion,
                    ThreeJoints& out) {
  out.count = 0;
  const Vector3& along = first.axis;
  const auto sense = [&](const Screw& screw) { return screw.axis.dot(along) > 0.0 ? 1.0 : -1.0; };
  const double whole = turn_of(along, motion.rotation);
  const Vector3 shoulder = across(along, first.point);
  const Vector3 elbow = across(along, second.point);
  const Vector3 wrist = across(along, third.point);
  const Vector3 goal = across(along, motion * third.point);
  const double distance = (goal - shoulder).norm();
  const TwoAngles bends = turns_to_distance(along, wrist - elbow, shoulder - elbow, distance);
  const int free = distance < kHalfOfDigits ? 0 : bends.any ? 1 : -1;
  for (int i = 0; i < bends.count; ++i) {
    const double bend = bends.angle[i];
    const Vector3 there = elbow + rotation_about(along, bend) * (wrist - elbow);
    const double turn = turn_onto(along, there - shoulder, goal - shoulder);
    out.add(turn, sense(second) * bend, sense(third) * (whole - turn - bend), free);
  }
}

ThreeTurnSolver::ThreeTurnSolver(const ThreeScrews& axes, const Vector3& point)
    : axes_(axes), point_(point) {
  if (are_parallel(axes_[0], axes_[1])) {
    path_ = Path::first_parallel;
    return;
  }
  const CommonNormal normal = common_normal(axes_[0], axes_[1]);
  foot_first_ = normal.on_first;
  foot_second_ = normal.on_second;
  path_ = normal.length() < kAxisTolerance ? Path::first_meet : Path::general;
  if (axes_[0].axis.cross(axes_[1].axis).norm() < kAllButSpecial)
    nearly_ = Path::first_parallel;
  else if (normal.length() < kAllButSpecial)
    nearly_ = Path::first_meet;
}

const char* ThreeTurnSolver::path() const {
  switch (path_) {
    case Path::first_parallel:
      return "axes 1 and 2 parallel";
    case Path::first_meet:
      return "axes 1 and 2 meeting";
    case Path::general:
      return "axes 1 to 3 askew";
  }
  return "";
}

void ThreeTurnSolver::solve(const Vector3& goal, ThreeJoints& out) const {
  if (path_ != Path::general || nearly_ == Path::general) return by_path(path_, goal, out);
  WayCandidates candidates;
  ThreeJoints some;
  for (const Path path : {nearly_, Path::general}) {
    by_path(path, goal, some);
    for (int i = 0; i < some.count; ++i)
      candidates.add(some.ways[static_cast<std::size_t>(i)], path == nearly_);
    candidates.sure = some.sure;
  }
  keep_ways(axes_, point_, goal, candidates, out);
}

void ThreeTurnSolver::by_path(Path path, const Vector3& goal, ThreeJoints& out) const {
  out.count = 0;
  out.sure = true;
  switch (path) {
    case Path::first_parallel:
      return first_parallel(goal, out);
    case Path::first_meet:
      return first_meet(goal, out);
    case Path::general:
      return general(goal, out);
  }
}

// Turns about axes 1 and 2 keep the height along them, so the third has to bring it about.
void ThreeTurnSolver::first_parallel(const Vector3& goal, ThreeJoints& out) const {
  const Screw& a = axes_[0];
  const Screw& b = axes_[1];
  const Screw& c = axes_[2];
  const TwoAngles thirds =
      turns_to_height(c.axis, point_ - c.point, a.axis, a.axis.dot(goal - c.point));
  for (int i = 0; i < thirds.count; ++i) {
    const Vector3 x = turned(c, thirds.angle[i], point_);
    const TwoAngles seconds =
        turns_to_distance(b.axis, across(a.axis, x - b.point), across(a.axis, a.point - b.point),
                          across(a.axis, goal - a.point).norm());
    for (int k = 0; k < seconds.count; ++k) {
      const Vector3 y = turned(b, seconds.angle[k], x);
      out.add(turn_onto(a.axis, y - a.point, goal - a.point), seconds.angle[k], thirds.angle[i],
              free_turn(axes_, point_, x, goal));
    }
  }
}

// Turns about axes 1 and 2 keep the distance from where they meet.
void ThreeTurnSolver::first_meet(const Vector3& goal, ThreeJoints& out) const {
  const Screw& a = axes_[0];
  const Screw& b = axes_[1];
  const Screw& c = axes_[2];
  const Vector3 meet = 0.5 * (foot_first_ + foot_second_);
  const TwoAngles thirds =
      turns_to_distance(c.axis, point_ - c.point, meet - c.point, (goal - meet).norm());
  for (int i = 0; i < thirds.count; ++i) {
    const Vector3 x = turned(c, thirds.angle[i], point_);
    const TwoTurns two = two_turns(a.axis, b.axis, x - meet, goal - meet);
    for (int k = 0; k < two.count; ++k)
      out.add(two.first[k], two.second[k], thirds.angle[i], free_turn(axes_, point_, x, goal));
  }
}

// After the third turn let u be the point seen from the foot on axis 2; n points from the foot on
// axis 1 to that on axis 2, a apart, and t = axis 2 x n. Distance and height as axis 1 sees them
// fix what u.n and u.t have to be after the second turn, which keeps their square sum.
ThreeTurnSolver::SecondTurn ThreeTurnSolver::second_turn(double third, const Vector3& goal) const {
  const Screw& first = axes_[0];
  const Screw& second = axes_[1];
  const Vector3 between = foot_second_ - foot_first_;
  const double a = between.norm();
  const Vector3 n = between / a;
  const Vector3 t = second.axis.cross(n);
  const Vector3 u = turned(axes_[2], third, point_) - foot_second_;
  const Vector3 wanted = goal - foot_first_;
  return {u, u.dot(n), u.dot(t), (wanted.squaredNorm() - a * a - u.squaredNorm()) / (2.0 * a),
          (first.axis.dot(wanted) - second.axis.dot(u) * first.axis.dot(second.axis)) /
              first.axis.dot(t)};
}

void ThreeTurnSolver::general(const Vector3& goal, ThreeJoints& out) const {
  const auto too_far = [&](double third) {
    const SecondTurn at = second_turn(third, goal);
    return at.wanted_n * at.wanted_n + at.wanted_t * at.wanted_t - at.n * at.n - at.t * at.t;
  };
  const TrigRoots thirds = angles_where(too_far, 0.0);
  out.sure = thirds.all_isolated;
  for (const double third : thirds) {
    const SecondTurn at = second_turn(third, goal);
    const double second = std::atan2(at.wanted_t, at.wanted_n) - std::atan2(at.t, at.n);
    const Vector3 y = foot_second_ + rotation_about(axes_[1].axis, second) * at.u;
    std::array<double, 3> angle{turn_onto(axes_[0].axis, y - foot_first_, goal - foot_first_),
                                second, third};
    refine(axes_, point_, goal, 1, angle);
    out.add(angle[0], angle[1], angle[2], free_turn(axes_, point_, foot_second_ + at.u, goal));
  }
}

}  // namespace er
