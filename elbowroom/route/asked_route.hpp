// Questions of routes as people ask them: from a posture to a posture, or to what targets want.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/kinematics/target.hpp"
#include "elbowroom/route/route.hpp"

namespace er {

struct AskedRoute {
  std::string name = {};
  Posture start = {};
  Posture end = {};                  ///< empty: where one of the targets is met
  std::vector<Target> targets = {};  ///< any of them will do
};

/// Ready for planners: every posture that meets one of the targets is a goal.
struct ReadyRoute {
  CellQuery query;  ///< with the contacts that the targets mean
  Posture start = {};
  std::vector<Posture> goals = {};
  std::vector<std::size_t> target_of_goal = {};  ///< empty where an end was given
};

/// A no when none of the targets can be met: the reason is that of the first, with the others'
/// below. Throws InputError when there is neither an end nor a target, or both, and when targets
/// mean different contacts: what is excused for one is not for another.
Verdict<ReadyRoute> make_ready(const CellQuery& query, const AskedRoute& asked, double clearance);

/// Does what a cell does once, when it is first asked about motion: before times are taken.
void warm_up(const ReadyRoute& ready);

Verdict<Route> find_route(const ReadyRoute& ready, const RouteOptions& options = {},
                          const Supervision& supervision = {});

}  // namespace er
