// Which solver a tool's targets are for.
#pragma once

#include <string>

#include "elbowroom/model/arm.hpp"

namespace er {

/// What solves the targets of a tool, and why: its closed form, that of seven joints, or numeric
/// starts.
std::string solver_text(const Arm& arm, const Tool& tool);

}  // namespace er
