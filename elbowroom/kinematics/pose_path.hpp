// A recorded path of a tool: poses over time, joined smoothly.
#pragma once

#include <vector>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/base/twist.hpp"

namespace er {

/// Positions and quaternions each run along a natural cubic spline through what was recorded, so
/// that velocity and acceleration have no steps; the quaternion is brought back to unit length.
class PosePath {
 public:
  /// `times` in s, ascending; poses in the world. Throws InputError for fewer than two, for times
  /// that do not ascend or are not finite, and for neighbours turned by more than 60 deg, between
  /// which the path would be a guess.
  PosePath(const std::vector<double>& times, const std::vector<Pose>& poses);

  [[nodiscard]] double duration() const { return curve_.duration(); }
  /// The pose so long after the first one; held at the ends.
  [[nodiscard]] Pose at(double time) const;
  [[nodiscard]] double length() const { return length_; }  ///< of the polyline of positions, m

 private:
  JointCurve curve_;  // x, y, z, and the quaternion's w, x, y, z
  double length_ = 0.0;
};

/// Times for poses that have none: the tool's tip at `speed` (m/s), turning at `turn_speed` (rad/s)
/// at most. Throws InputError for speeds that are not above zero and for two neighbours that are
/// the same.
std::vector<double> times_at_speed(const std::vector<Pose>& poses, double speed, double turn_speed);

}  // namespace er
