// The limits that hold along a path, and what a motion along it makes of them.
#pragma once

#include <limits>
#include <optional>
#include <vector>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/frame_speed.hpp"
#include "elbowroom/dynamics/inverse_dynamics.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er {

/// How fast a stretch of the path may be gone along at most.
struct StretchCap {
  double from = 0.0;  ///< the path's parameter
  double to = 0.0;
  double share = 1.0;  ///< of every velocity limit, above 0
};

/// What the motors can give.
struct PathTorques {
  Posture most;  ///< N m or N, above zero; infinite where there is no limit
  DynamicsOptions dynamics = {};
};

struct PathLimits {
  Posture velocity;      ///< of the joints, rad/s or m/s, either way
  Posture acceleration;  ///< rad/s^2 or m/s^2
  Posture jerk = {};     ///< rad/s^3 or m/s^3; for those that limit it
  std::optional<PathTorques> torques = {};
  /// Of the point `tip` of `link` of the arm, m/s and m/s^2.
  double tool_speed = std::numeric_limits<double>::infinity();
  double tool_acceleration = std::numeric_limits<double>::infinity();
  int link = -1;
  Vector3 tip = Vector3::Zero();
  std::vector<StretchCap> caps = {};
  std::vector<FrameSpeed> frames = {};
  LimitWays ways = {};  ///< where velocity and acceleration differ by the way

  [[nodiscard]] WayLimits velocity_of(Eigen::Index k) const {
    return ways.velocity(k, velocity[k]);
  }
  [[nodiscard]] WayLimits acceleration_of(Eigen::Index k) const {
    return ways.acceleration(k, acceleration[k]);
  }
};

/// Throws InputError for limits that are not above zero or not one a joint, or a path of no length.
void check_path(const JointCurve& path, const PathLimits& limits);

/// The share of every velocity limit that may be used at a parameter of the path.
double cap_at(const PathLimits& limits, double parameter);

/// The frames whose speed is limited, found on an arm once for all points of a path.
class LimitedFrames {
 public:
  LimitedFrames(const Arm& arm, const std::vector<FrameSpeed>& rules);
  [[nodiscard]] bool empty() const { return frames_.empty(); }
  /// How much of their limits a unit of ds/dt takes, at a point of a path and along its first
  /// derivative by s.
  [[nodiscard]] double use(const PostureRef& position, const PostureRef& slope) const;

 private:
  struct One {
    ArmPoint point;
    double most;
  };
  const Arm& arm_;
  std::vector<One> frames_;
};

/// How many times as long a motion must take at least to keep the limits of joints and tool: below
/// 1 where it could be quicker. Joints' peaks are exact; the tool is looked at in a few moments of
/// each piece. Jerk counts only where it has limits.
double stretch_to_keep(const Motion& motion, const Arm& arm, const PathLimits& limits);

/// For the tool's limits alone; it is looked at in a few moments of each piece.
double tool_stretch(const Motion& motion, const Arm& arm, const PathLimits& limits);

/// The motion as it is where it keeps all limits, else slowed until it does: torques, too, which it
/// keeps at the ends of its pieces.
struct KeptMotion {
  Motion motion;
  double slowed = 1.0;  ///< times as long
};
/// A no where even holding still asks too much of a motor.
Verdict<KeptMotion> kept_within(Motion motion, const Arm& arm, const PathLimits& limits);

}  // namespace er
