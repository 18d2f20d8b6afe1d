// All joints of an arm from any state to any state, each within its own limits and all arriving at
// the same moment. Made to be asked again in every cycle of a control loop.
#pragma once

#include <array>
#include <type_traits>
#include <variant>
#include <vector>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/model/arm.hpp"
#include "elbowroom/pace/acceleration_limited.hpp"
#include "elbowroom/pace/jerk_limited.hpp"

namespace er {

struct StateMoveOptions {
  /// Arrive together; otherwise each joint as soon as it can, and waits there, if its target is at
  /// rest.
  bool together = true;
  /// Take at least so long, s.
  double at_least = 0.0;
};

/// Joints do not stay on a straight line: each has a motion of its own. Where jerk is not limited,
/// accelerations jump, and those of the states at the ends are of no account. Nothing is known of
/// ranges or of what stands around (leaves_ranges, sweep_curve). Allocates nothing but in motion().
class StateMove {
 public:
  /// `limits`: one for each joint. Throws InputError for vectors of different lengths, a value that
  /// is no number, or a target that the limits do not allow, with the joint's number.
  StateMove(const JointState& from, const JointState& to, const std::vector<AxisLimits>& limits,
            const StateMoveOptions& options = {});
  StateMove(const StateMove& other);
  StateMove& operator=(const StateMove& other);
  ~StateMove() = default;

  [[nodiscard]] double duration() const { return duration_; }
  /// The joint (from 0) that decides how long it takes.
  [[nodiscard]] int slowest() const { return slowest_; }
  [[nodiscard]] const AxisProfile& joint(int index) const {
    return profiles_[static_cast<std::size_t>(index)].profile;
  }
  [[nodiscard]] int dof() const { return dof_; }
  /// After so long; held at the ends.
  void at(double time, JointState& out) const;
  /// The same as a joint curve; a move of no length is InputError.
  [[nodiscard]] JointCurve motion() const;

 private:
  void solve_rests(const JointState& from, const JointState& to,
                   const std::vector<AxisLimits>& limits, bool together);
  void solve_any(const JointState& from, const JointState& to,
                 const std::vector<AxisLimits>& limits, bool together);

  // Room for the profiles of as many joints as there are; setting all of it up would take as long
  // as solving does.
  union ProfileSlot {
    ProfileSlot() {}  // NOLINT: nothing is there yet
    AxisProfile profile;
  };
  static_assert(std::is_trivially_destructible_v<AxisProfile>);
  std::array<ProfileSlot, kMaxJoints> profiles_;
  int dof_ = 0;
  int slowest_ = 0;
  double duration_ = 0.0;
};

/// The limits of an arm's joints, `speed` of each velocity limit. Unstated limits stay infinite.
std::vector<AxisLimits> axis_limits(const Limits& limits, double speed = 1.0);

}  // namespace er
