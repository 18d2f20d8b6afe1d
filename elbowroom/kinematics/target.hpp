// Targets: what a tool is to achieve, and how far a posture is from it.
#pragma once

#include <string>

#include "elbowroom/kinematics/forward.hpp"

namespace er {

/// A pose that a tool's tip is to take, in the world, with tolerances.
///     Target{}.place("grip", pose).within(0.1_mm, 0.1_deg)
class Target {
 public:
  /// An empty tool name is the arm's first tool.
  Target& place(std::string tool, const Pose& pose);
  /// Metres and radians. Defaults: 1e-6 m, 1e-6 rad. Throws InputError unless both are above zero.
  Target& within(double position, double angle);
  /// The name that messages and tables use.
  Target& named(std::string name);

  [[nodiscard]] const std::string& name() const { return name_; }
  [[nodiscard]] const std::string& tool() const { return tool_; }
  [[nodiscard]] const Pose& pose() const { return pose_; }
  [[nodiscard]] double position_tolerance() const { return position_tolerance_; }
  [[nodiscard]] double angle_tolerance() const { return angle_tolerance_; }

 private:
  std::string name_;
  std::string tool_;
  Pose pose_;
  double position_tolerance_ = 1e-6;
  double angle_tolerance_ = 1e-6;
};

/// How far a tip pose is from the wanted one.
struct TargetError {
  Eigen::Matrix<double, 6, 1>
      twist;              ///< wanted minus is: metres, then a rotation vector, world axes
  double position = 0.0;  ///< metres
  double angle = 0.0;     ///< radians
};

/// Allocates nothing.
TargetError error_between(const Pose& wanted, const Pose& is);

/// True when the error is within the target's tolerances.
bool is_met(const Target& target, const TargetError& error);

}  // namespace er
