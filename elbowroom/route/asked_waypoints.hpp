// Waypoints as people list them: stances, postures, or targets that are still to be reached.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/kinematics/target.hpp"

namespace er {

struct AskedWaypoint {
  std::string name = {};
  Posture posture = {};  ///< empty: where the target is met
  std::optional<Target> target = {};
  std::optional<Posture> velocity = {};
  std::optional<Posture> acceleration = {};
  std::optional<double> after = {};  ///< s, since the waypoint before
  // Of straight lines:
  std::optional<double> speed = {};  ///< share of the velocity limits on the line that leads here
  bool stop = false;                 ///< an exact stop, where corners are rounded
  double wait = 0.0;                 ///< s, at rest here
};

/// Postures for all of them: of those that meet a target, the one nearest (joint travel) to the
/// waypoint before it; at the beginning the one that ranks best. Sets `posture` where it was empty.
/// A no when a target cannot be met, with its name.
Verdict<std::vector<AskedWaypoint>> with_postures(const CellQuery& query,
                                                  std::vector<AskedWaypoint> waypoints,
                                                  double clearance);

}  // namespace er
