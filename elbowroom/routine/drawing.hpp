// Drawing with a tool: strokes on a plane as steps of a routine, and what was drawn of them.
#pragma once

#include <vector>

#include "elbowroom/route/strokes.hpp"
#include "elbowroom/routine/routine.hpp"

namespace er {

/// The steps that draw: a free move to over the first point, then for each stroke straight down,
/// along its smooth parts (at a corner the tip stops), up, and over to the next. Without a lift the
/// strokes have to be one (in_one_stroke). The tool's z points into the plane. `number` is the
/// drawing's own in Routine::drawings. Throws InputError for no strokes, a negative lift, or more
/// than one stroke without a lift.
std::vector<Step> steps_of(const Drawing& drawing, int number, const Step& settings);

/// The tool along a stroke of a drawing, its z into the plane: poses no more than a millimetre
/// apart.
std::vector<Pose> poses_along(const Drawing& drawing, const Stroke& stroke);

/// Where the tip went while it drew, in the drawing's plane (m, z out of it): a line for each step,
/// sampled every half millimetre.
std::vector<std::vector<Vector3>> drawn_lines(const PlannedRoutine& planned, int number);

/// How far what was drawn is from what was asked for.
struct DrawnError {
  double worst = 0.0;     ///< m: of any place that was drawn, from the nearest stroke, in space
  double mean = 0.0;      ///< m, over the way of the tip
  double left_out = 0.0;  ///< m: of any point of the strokes, from the nearest place drawn
  double length = 0.0;    ///< m that was drawn
};
DrawnError drawn_error(const PlannedRoutine& planned, int number);

}  // namespace er
