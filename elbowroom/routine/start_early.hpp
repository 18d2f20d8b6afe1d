// When each step of several arms begins. In turn, that is when all steps before it are over. Else
// each begins as early as it can be proved that no two arms meet: steps are taken in their order,
// and each is put as early as those before it in the list leave room for (prioritised planning,
// after Erdmann and Lozano-Perez, "On multiple moving objects", 1987; only times are sought here,
// ways stay as they are). Since every step was planned with the other arms standing where the steps
// before it leave them, to wait for all of those always works.
#pragma once

#include "elbowroom/base/progress.hpp"
#include "elbowroom/routine/routine.hpp"

namespace er {

/// Fills in PlannedStep::begins. Free moves that several arms make together begin together.
void set_times_in_turn(PlannedRoutine& planned);

/// `found` is the cell as the routine finds it. A step waits for those that Step::after names, and
/// for whoever puts or takes the pieces that it grips, lets go of or may touch. Each clearance
/// between two arms is the larger one of what their steps ask for.
void start_early(const Cell& found, PlannedRoutine& planned, const Supervision& supervision);

}  // namespace er
