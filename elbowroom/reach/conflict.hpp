// Requirements that cannot hold together: the smallest set of them, and how much one of them would
// have to give way.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/reach/reach.hpp"

namespace er {

/// The names of requirements that cannot all be met, though any one of them left out makes the
/// others possible (by numeric solves from so many starts, within the joint ranges, collisions
/// aside). Empty when all of them together can be met.
std::vector<std::string> conflicting_requirements(const Arm& arm, const Target& target, int starts);

/// The requirement with its bands widened on all sides by so many metres and radians.
Requirement loosened(Requirement requirement, double metres, double radians);

/// The reason that such a set is, with what each of it is off by when the others are met, and as
/// remedies how far which has to be loosened; each was reached again, collisions included.
Reason explain_conflict(const CellQuery& query, const Target& target, const ReachOptions& options);

}  // namespace er
