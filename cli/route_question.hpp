// The arguments of a routing question, which `route` and `pace` both take.
#pragma once

#include "elbowroom/route/route.hpp"
#include "verb.hpp"

namespace er::cli {

struct RouteQuestion {
  Arguments a;
  std::string from = "home";
  std::string to;
  std::uint64_t seed = RouteOptions{}.seed;
  int tries = RouteOptions{}.tries;
};

void add_route_question(VerbParser& parser, RouteQuestion& question);

/// Finds the route: to the posture or stance of --to, or to any posture that meets the target. The
/// contacts that the target means are set in `query`.
Verdict<Route> answer_route_question(CellQuery& query, const RouteQuestion& question);

}  // namespace er::cli
