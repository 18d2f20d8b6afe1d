// What can be said of a routine without planning it: names, and what is held at each step.
#pragma once

#include <vector>

#include "elbowroom/model/cell.hpp"
#include "elbowroom/routine/routine.hpp"

namespace er {

/// Throws InputError, with the step's place, for a step that cannot mean anything: no steps, a
/// piece that is not there, is held already (by another arm, too) or is not held, a tool, joint or
/// stance that the arm does not have, times and angles that are not above zero. Looks at every
/// path, with no step replaced, and with each that can be replaced alone.
void check_routine(const Cell& cell, const Routine& routine);

/// The same of one path: what does not hold is not done.
void check_path(const Cell& cell, const Routine& routine, const std::vector<Condition>& holding);

}  // namespace er
