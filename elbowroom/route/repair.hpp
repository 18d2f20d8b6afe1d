// A route for a cell that has changed, from one that was found before: what still stands is kept.
#pragma once

#include "elbowroom/collision/still_free.hpp"
#include "elbowroom/route/route.hpp"

namespace er {

struct Repaired {
  Route route;                   ///< whole, from the old start to the old end
  StillFree before;              ///< what the old one comes to in this cell
  std::size_t kept = 0;          ///< so many moves at its beginning are the old ones
  std::size_t again = 0;         ///< and so many at its end
  std::string broken_rule = {};  ///< that the first move which is not kept breaks, if it is that
};

/// Keeps the moves before the first that does not keep the clearance, or a rule, and, at the end,
/// those that the new part gets back to; the rest is found anew as find_route does. All of it is
/// proved. A no is that of find_route. Throws InputError for fewer than two waypoints, and as
/// find_route does.
Verdict<Repaired> repair_route(const CellQuery& query, const std::vector<Posture>& waypoints,
                               const RouteOptions& options = {},
                               const Supervision& supervision = {});

}  // namespace er
