// Pictures of a cell with an arm at a posture and, where there is one, the path of its tool.
#pragma once

#include <string>

#include "elbowroom/draw/plot.hpp"
#include "elbowroom/draw/render.hpp"
#include "elbowroom/routine/routine.hpp"

namespace er::cli {

/// "teasel, dip a cup: 9.082 s"
PlotOptions plot_of(const PlannedRoutine& planned);

/// Adds the path of the arm's first tool along a motion.
void add_tool_path(Scene& scene, const Arm& arm, const Motion& motion);

}  // namespace er::cli
