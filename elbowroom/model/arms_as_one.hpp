// Several arms as one: a tree whose branches they are. What moves them all at once (a route, a
// proof, a rehearsal, a picture) need not know that they are several.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/model/cell.hpp"

namespace er {

/// A posture of it is those of the arms, one after the other. Links, joints and tools are named
/// "teasel.forearm", and it has no stances. Links of two of the arms are checked against each other
/// whatever they hang on, unless a contact is meant. Throws InputError for fewer than two arms, or
/// more than kMaxJoints joints in all.
Arm arms_as_one(const std::vector<Arm>& arms);

/// The same cell with these of its arms as one, which stands last. Names in contacts stay as they
/// are. Throws InputError for an arm that is not there.
Cell with_arms_as_one(const Cell& cell, const std::vector<std::string>& arms);

/// "teasel+bracken"
std::string name_as_one(const std::vector<std::string>& arms);

/// The first tool of an arm, if it has one; of arms that were made one, the first of each.
std::vector<Tool> first_tools(const Arm& arm);

/// Postures of several arms as one of them all.
Posture side_by_side(const std::vector<Posture>& postures);

}  // namespace er
