#include "elbowroom/kinematics/pose_path.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/spline.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

constexpr double kWidestTurn = 60.0_deg;

}  // namespace

PosePath::PosePath(const std::vector<double>& times, const std::vector<Pose>& poses) {
  if (poses.size() < 2)
    throw InputError(fmt::format("a path needs two poses or more, found {}", poses.size()));
  std::vector<Posture> knots;
  Eigen::Vector4d last = Eigen::Vector4d::Zero();
  for (std::size_t i = 0; i < poses.size(); ++i) {
    Posture knot(7);
    Eigen::Vector4d q = quaternion_wxyz(poses[i].rotation);
    if (q.dot(last) < 0.0) q = -q;
    last = q;
    knot << poses[i].position, q;
    if (!knot.allFinite() || !std::isfinite(times[i]))
      throw InputError(fmt::format("pose {} of the path is not finite", i + 1));
    knots.push_back(knot);
    if (i == 0) continue;
    if (!(times[i] > times[i - 1]))
      throw InputError(
          fmt::format("the times of a path ascend, but pose {} is at {} s after one at "
                      "{} s",
                      i + 1, times[i], times[i - 1]));
    const double turn = twist_between(poses[i - 1], poses[i], 1.0).turning.norm();
    if (turn > kWidestTurn)
      throw InputError(
          fmt::format(
              "from pose {} to the next the tool turns by {}, so the way between is a guess", i,
              text_angle(turn)),
          "give poses that are at most 60 deg apart");
    length_ += (poses[i].position - poses[i - 1].position).norm();
  }
  curve_ = spline_through(knots, times);
}

Pose PosePath::at(double time) const {
  const Posture v = curve_.at(time).position;
  return {rotation_from_quaternion({v[3], v[4], v[5], v[6]}), v.head<3>()};
}

std::vector<double> times_at_speed(const std::vector<Pose>& poses, double speed,
                                   double turn_speed) {
  if (!(speed > 0.0) || !(turn_speed > 0.0)) throw InputError("a speed along a path is above zero");
  std::vector<double> times{0.0};
  for (std::size_t i = 1; i < poses.size(); ++i) {
    const Twist way = twist_between(poses[i - 1], poses[i], 1.0);
    const double time = std::max(way.velocity.norm() / speed, way.turning.norm() / turn_speed);
    if (!(time > 1e-9))
      throw InputError(fmt::format("poses {} and {} of the path are the same", i, i + 1),
                       "leave one out, or give times in a column t");
    times.push_back(times.back() + time);
  }
  return times;
}

}  // namespace er
