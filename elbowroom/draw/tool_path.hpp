// The way of a tool along joint motions, for pictures.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

inline constexpr Colour kPathColour{0.10, 0.32, 0.62};
inline constexpr Colour kOtherPathColour{0.55, 0.70, 0.88};

/// Where the tip of a tool (empty: the arm's first) is at `count` + 1 even places of a curve.
std::vector<Vector3> tool_path(const Arm& arm, const JointCurve& curve, int count,
                               const std::string& tool = {});

}  // namespace er
