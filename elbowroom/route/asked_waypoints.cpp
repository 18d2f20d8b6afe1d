#include "elbowroom/route/asked_waypoints.hpp"

#include <algorithm>

#include "elbowroom/reach/reach.hpp"

namespace er {

Verdict<std::vector<AskedWaypoint>> with_postures(const CellQuery& query,
                                                  std::vector<AskedWaypoint> waypoints,
                                                  double clearance) {
  const Posture* before = nullptr;
  for (AskedWaypoint& waypoint : waypoints) {
    if (waypoint.target) {
      ReachOptions options{.clearance = clearance};
      if (before != nullptr) options.from = *before;
      const auto reached =
          reach(with_meant_contacts(query, *waypoint.target), *waypoint.target, options);
      if (!reached) {
        Reason reason = reached.reason();
        reason.text += " (waypoint " + waypoint.name + ")";
        return reason;
      }
      const std::vector<Posture> all = reached->postures();
      waypoint.posture =
          before == nullptr
              ? all.front()
              : *std::min_element(all.begin(), all.end(), [&](const Posture& a, const Posture& b) {
                  return (a - *before).norm() < (b - *before).norm();
                });
    }
    before = &waypoint.posture;
  }
  return waypoints;
}

}  // namespace er
