// Postures in tables: one column per joint, in drawing units.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/model/arm.hpp"

namespace er {

/// "waist deg", "lift mm", ...
std::vector<std::string> joint_headings(const Arm& arm);

/// The values under those headings, to a tenth, never "-0.0".
std::vector<std::string> joint_cells(const Arm& arm, const PostureRef& posture);

/// As the tool takes it: "12.5 deg, 140.0 mm".
std::string posture_argument(const Arm& arm, const PostureRef& posture);

}  // namespace er
