// A search that goes on after the first way, for cheaper ones.
#pragma once

#include "elbowroom/route/planner.hpp"

namespace er {

/// Each round finds a few more ways with two trees, tightens them, and puts them into one graph
/// with those found before, joined to each other and to random postures that a cheaper way may go
/// through; the cheapest path of that graph, tightened, is kept where it beats the best so far.
/// Ends after `question.rounds`, or when kRoundsWithoutGain of them together gained less than the
/// share that is worthwhile. A Planner. Ways are mixed after B. Raveh, A. Enosh and D. Halperin, "A
/// little more, a lot better: improving path quality by a path-merging algorithm", 2011.
Search improve(const PlannerQuestion& question, LineProver& prover, const Supervision& supervision);

inline constexpr int kRoundsWithoutGain = 4;

}  // namespace er
