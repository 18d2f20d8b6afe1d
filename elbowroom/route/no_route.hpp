// Why there is no route: a proof that none can be, or what would have to give way for one.
#pragma once

#include <optional>
#include <span>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/route/route.hpp"

namespace er {

/// The same question, only to know whether there is a route.
RouteOptions only_whether(const RouteOptions& options, int most_tries);

/// A value that a joint has to pass between two postures, and what is too near there of what this
/// joint alone moves: so whatever the other joints do.
struct Barrier {
  int joint = -1;
  double value = 0.0;
  Nearest contact;
};

/// Looks at a few hundred values of each joint, and takes the worst of the first that is barred;
/// what it finds is certain, what it does not find may still be there.
std::optional<Barrier> find_barrier(const CellQuery& query, const Posture& from, const Posture& to,
                                    double clearance);

/// A search that ended without a route, and what it met.
struct Failure {
  const Posture& start;
  const std::vector<Posture>& goals;  ///< all free
  std::span<const int> blockers;      ///< bodies, those that blocked lines most often first
};

/// Adds to the reason of a failed search: the proof that no route can be, where there is one. Else
/// with how much less clearance there is a route, and where that is narrowest; and which of the
/// bodies that stand in the way would have to go. Both were solved again.
void explain_no_route(Reason& reason, const CellQuery& query, const Failure& failure,
                      const RouteOptions& options, const Supervision& supervision);

}  // namespace er
