// Forward kinematics as C++ for one arm alone: to be compiled into a control loop.
#pragma once

#include "elbowroom/files/robot_xml.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

/// A header that needs no library: the poses of all links and tools, and the Jacobians of the tools
/// (rows and units as tool_jacobian's), with the arm's mount and all dimensions written in and what
/// they make zero left out. To rounding the same as link_poses and tool_jacobian. Where the arm has
/// no tool, the last link's frame stands for one. Lost is all that moves nothing: limits, masses,
/// shapes, stances.
Written kinematics_code_of(const Arm& arm);

}  // namespace er
