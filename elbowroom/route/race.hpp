// Several two-tree searches that race, and the cheapest of what they find.
#pragma once

#include "elbowroom/route/planner.hpp"

namespace er {

/// A two-tree search takes the first way it meets, and how long that takes differs a hundredfold
/// from one random stream to the next. So `question.searches` of them go on side by side, in turns
/// of so many tries; when the first is there, the others get as many tries again, and the way that
/// is cheapest when tightened is kept. A Planner. Long races run on all cores.
Search race_two_trees(const PlannerQuestion& question, LineProver& prover,
                      const Supervision& supervision);

/// How many tries a search is worth where others have found a way after so many.
int tries_worth(int others);

}  // namespace er
