// Forward kinematics told step by step: every transform on the way from the world to a tool's tip.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/kinematics/forward.hpp"

namespace er {

/// One transform on the way.
struct ChainStep {
  std::string name;    ///< "mount", "joint elbow", "fixed flange_to_gripper", "tip of grip"
  std::string motion;  ///< "turns 20.00 deg about y", or "" when nothing moves here
  std::vector<std::string>
      factors;  ///< its rotation as elementary rotations in order: "Ry(20.000 deg)"
  Pose own;     ///< this frame in the one before
  Pose total;   ///< this frame in the world
};

/// From the mount to the tool's tip. The product of all `own` is the last `total`.
std::vector<ChainStep> chain_steps(const Arm& arm, const Tool& tool, const PostureRef& posture);

/// Each step with its 4x4 matrices, every part labelled, in mm; orientations are without unit.
std::string text_of(const std::vector<ChainStep>& steps);

}  // namespace er
