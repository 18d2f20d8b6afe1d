// Where a tool is along a motion, and how fast: samples.
#pragma once

#include <vector>

#include "elbowroom/model/arm.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er {

struct ToolMoment {
  Pose tip;            ///< in the world
  double way = 0.0;    ///< of the tip since the beginning, m
  double speed = 0.0;  ///< m/s
};

/// At `samples` + 1 even times.
std::vector<ToolMoment> tool_moments(const Motion& motion, const Arm& arm, const Tool& tool,
                                     int samples);

/// m/s, the highest of them.
double highest_speed(const std::vector<ToolMoment>& moments);

}  // namespace er
