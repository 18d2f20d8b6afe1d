// How searches for routes are to go, as files and the command line say it.
#pragma once

#include "elbowroom/files/document.hpp"
#include "elbowroom/route/rounding.hpp"
#include "elbowroom/route/route.hpp"

namespace er {

/// The keys of what a route costs: tool, swing, near, near_within, bends.
const std::vector<std::string>& route_cost_keys();
/// Of a map; what it does not say stays as in `cost`.
RouteCost read_route_cost(const Node& map, RouteCost cost = {});

/// Rounds of an improving search; 0 is none.
int read_rounds(const Node& node);

/// How far rounded corners may be off: "5 deg", "20 mm", or both with a comma between.
CornerBounds parse_corner_bounds(const std::string& text);

/// Those, and what else may be tried: clearance, searches, improve (rounds; 0 is none), shortcuts,
/// worthwhile, tries.
const std::vector<std::string>& route_option_keys();
/// Sets one of them.
void read_route_option(const Node::Entry& entry, RouteOptions& options);

}  // namespace er
