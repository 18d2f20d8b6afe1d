#include "elbowroom/files/route_reading.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/text.hpp"

namespace er {
namespace {

double weight(const Node& node) {
  const double value = as_quantity(node, dimension::number);
  if (!(value >= 0.0)) throw node.error("what a route costs is weighed by zero or more");
  return value;
}

double length(const Node& node, const std::string& what) {
  const double value = as_quantity(node, dimension::length);
  if (!(value >= 0.0)) throw node.error(what + " is zero or more");
  return value;
}

bool set_cost(const std::string& key, const Node& value, RouteCost& cost) {
  if (key == "tool")
    cost.tool = weight(value);
  else if (key == "swing")
    cost.swing = weight(value);
  else if (key == "near")
    cost.near = weight(value);
  else if (key == "bends")
    cost.bends = weight(value);
  else if (key == "near_within")
    cost.near_within = length(value, "near_within");
  else
    return false;
  return true;
}

}  // namespace

const std::vector<std::string>& route_cost_keys() {
  static const std::vector<std::string> keys{"tool", "swing", "near", "near_within", "bends"};
  return keys;
}

RouteCost read_route_cost(const Node& map, RouteCost cost) {
  expect_keys(map, "the cost of a route", route_cost_keys());
  for (const Node::Entry& entry : map.entries) set_cost(entry.key, entry.value, cost);
  return cost;
}

int read_rounds(const Node& node) { return as_whole(node, "the number of rounds"); }

CornerBounds parse_corner_bounds(const std::string& text) {
  CornerBounds bounds;
  for (const std::string& one : split_at_commas(text)) {
    const Quantity quantity = parse_quantity(one);
    if (!(quantity.si > 0.0))
      throw InputError(
          fmt::format("how far a rounded corner may be off is above zero, found {}", one));
    if (quantity.dimension == dimension::angle)
      bounds.angle = quantity.si;
    else if (quantity.dimension == dimension::length)
      bounds.length = quantity.si;
    else
      throw InputError(fmt::format("how far a rounded corner may be off is an angle or a length, "
                                   "found '{}'",
                                   one),
                       "say 5 deg of the joints, or 20 mm of the tool");
  }
  return bounds;
}

const std::vector<std::string>& route_option_keys() {
  static const std::vector<std::string> keys = [] {
    std::vector<std::string> all{"clearance", "searches",   "improve",
                                 "shortcuts", "worthwhile", "tries"};
    all.insert(all.end(), route_cost_keys().begin(), route_cost_keys().end());
    return all;
  }();
  return keys;
}

void read_route_option(const Node::Entry& entry, RouteOptions& options) {
  const Node& value = entry.value;
  if (set_cost(entry.key, value, options.cost)) return;
  if (entry.key == "clearance") {
    options.clearance = length(value, "a clearance");
  } else if (entry.key == "searches") {
    options.searches = as_whole(value, "the number of searches");
    if (options.searches == 0) throw value.error("at least one search is made");
  } else if (entry.key == "improve") {
    options.rounds = read_rounds(value);
    options.planner = options.rounds == 0 ? RoutePlanner::two_trees : RoutePlanner::improving;
  } else if (entry.key == "shortcuts") {
    options.shortcuts = as_whole(value, "the number of shortcuts");
  } else if (entry.key == "tries") {
    options.tries = as_whole(value, "the number of tries");
  } else if (entry.key == "worthwhile") {
    options.worthwhile = weight(value);
  } else {
    throw unknown_name("setting", entry.key, route_option_keys());
  }
}

}  // namespace er
