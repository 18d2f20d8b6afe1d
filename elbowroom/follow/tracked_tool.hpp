// A tool that is to be somewhere: the rows of a velocity step that bring it there.
#pragma once

#include <array>

#include "elbowroom/follow/velocity_step.hpp"
#include "elbowroom/kinematics/pose_path.hpp"
#include "elbowroom/kinematics/target.hpp"

namespace er {

/// What of the tool's pose the path does not hold, in the axes of the path's own pose.
struct PathFreedom {
  std::array<bool, 3> along = {};  ///< x, y, z
  bool turn = false;               ///< about z
  bool tilt = false;               ///< of z, any way
};

/// What a place of a target leaves open, as `--leave` and target files say it. Throws InputError
/// for a band (a path holds something or leaves it), a standoff, or another axis than z.
PathFreedom path_freedom(const AtPlace& place);

/// Refers to the arm, which must outlive it. Using it allocates nothing.
class TrackedTool {
 public:
  TrackedTool(const Arm& arm, const Tool& tool, const PathFreedom& free);

  [[nodiscard]] const Arm& arm() const { return arm_; }
  /// How many of the six are held.
  [[nodiscard]] int held() const;
  [[nodiscard]] Pose tip(const PostureRef& posture) const {
    return tool_pose(arm_, tool_, posture);
  }

  /// Rows for a step of `period` from `posture`, where the tool is at `tip`, that moves the tool as
  /// the path goes from `now` to `next`, which is `ahead` s later on the path's own clock, and
  /// brings it back by `gain` (1/s) times what it is off. The Jacobian is that of the middle of the
  /// step, if joints go on at `before`. Bounds, unit and wish of the question stay as they are.
  void rows(const PostureRef& posture, const Pose& tip, const PostureRef& before, double period,
            const Pose& now, const Pose& next, double ahead, double gain, StepQuestion& out);

  /// The rows of what is held alone, at a posture, in these axes; no command or correction.
  void rows(const PostureRef& posture, const Matrix3& axes, StepQuestion& out);
  /// A twist (world axes) in those rows.
  void in_rows(const Matrix3& axes, const Twist& twist,
               std::array<double, StepQuestion::kMostRows>& out) const;
  /// `meant` as it is where it is held, and with the tool where it is left open.
  [[nodiscard]] Pose carried_along(const Pose& tip, const Pose& meant) const;

  /// How far off the tool is in what is held.
  struct Off {
    double position = 0.0;  ///< m
    double angle = 0.0;     ///< rad
  };
  [[nodiscard]] Off off(const Pose& tip, const Pose& meant) const;
  /// The same as a target, for solvers of whole postures.
  [[nodiscard]] Target target_at(const Pose& meant) const;

  /// What a radian counts beside a metre, m: about the size of a hand with its tool.
  static constexpr double kTurnRadius = 0.3;

 private:
  template <class Use>
  void for_each_row(Use use) const;

  const Arm& arm_;
  const Tool& tool_;
  PathFreedom free_;
  Jacobian jacobian_;
};

}  // namespace er
