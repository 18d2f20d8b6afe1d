// Another branch in place: the arm changes its posture while the tool ends where it began.
#pragma once

#include "elbowroom/collision/swept_room.hpp"
#include "elbowroom/route/route.hpp"

namespace er {

struct PostureChange {
  Route route;
  std::string from = {};    ///< the branch at the start; empty where branches have no names
  std::string to = {};      ///< and at the end
  std::string legend = {};  ///< what the words of a branch say
  AlignedBox room;          ///< that the arm takes up on the way, world axes
  double off = 0.0;         ///< m, the furthest that the tool is from its place on the way
};

/// Finds a route from `start` to another posture with the same tool pose (of the arm's first tool,
/// or of its last link), whose branch has all the words of `branch`, such as "down" or "back, up";
/// of any other branch where it is empty. A no names the branches there are, and what keeps each
/// from being taken. Throws InputError as find_route does.
Verdict<PostureChange> change_posture(const CellQuery& query, const Posture& start,
                                      const std::string& branch, const RouteOptions& options = {},
                                      const Supervision& supervision = {});

}  // namespace er
