// What can be said of a routine without planning it: names, and what is held at each step.
#pragma once

#include <vector>

#include "elbowroom/model/cell.hpp"
#include "elbowroom/routine/routine.hpp"

namespace er {

/// Throws InputError, with the step's place, for a step that cannot mean anything: no steps, a
/// piece that is not there, is held already (by another arm, too) or is not held, a tool, joint or
/// stance that the arm does not have, times and angles that are not above zero. Gives how many
/// pieces the arm of the step holds after each step.
std::vector<int> check_routine(const Cell& cell, const Routine& routine);

}  // namespace er
