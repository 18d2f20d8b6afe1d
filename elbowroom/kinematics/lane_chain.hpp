// A chain made ready for kernels that walk it in eight postures side by side.
#pragma once

#include <array>
#include <optional>

#include "elbowroom/model/arm.hpp"

namespace er {

/// Of at most eight moving joints. `joints` counts the posture entries among them: a joint and
/// those that follow it share one.
struct LaneChain {
  static constexpr int kMostJoints = 8;
  struct Step {
    int joint = 0;  ///< of the chain's own, 0 .. joints - 1, as they come
    double turn_ratio = 0.0;
    double turn_offset = 0.0;
    double slide_ratio = 0.0;
    Vector3 onward = Vector3::Zero();
    double tilt_cosine = 1.0;
    double tilt_sine = 0.0;
  };
  int steps = 0;
  int joints = 0;
  std::array<Step, kMostJoints> step = {};
  std::array<int, kMostJoints> entry = {};  ///< of a posture, for each joint
  Pose start = {};                          ///< of the first step, in the world
  Pose end = {};                            ///< the frame, in that of the last step
};

/// The chain from the mount to a frame fixed in a link; nothing when it is longer than that.
std::optional<LaneChain> lane_chain(const Arm& arm, int link, const Pose& frame_in_link);
/// The same for a walk from a mount.
std::optional<LaneChain> lane_chain(const ChainWalk& walk, const Pose& mount,
                                    const Pose& frame_in_link);

/// Poses and Jacobians of eight postures. All arrays hold the eight values of one figure next to
/// each other.
struct LaneJacobians {
  static constexpr int kPostures = 8;
  /// Rotation by columns, then position: 12 figures.
  std::array<std::array<double, kPostures>, 12> pose;
  /// Per joint of the chain: velocity, then angular velocity of the frame, world axes.
  std::array<std::array<std::array<double, kPostures>, 6>, LaneChain::kMostJoints> column;
};

/// `values[j][p]` is joint j of posture p. Allocates nothing. The same bits on every instruction
/// set.
void lane_jacobians(const LaneChain& chain, const double (*values)[LaneJacobians::kPostures],
                    LaneJacobians& out);

}  // namespace er
