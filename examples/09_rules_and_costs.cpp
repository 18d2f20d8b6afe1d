// Routes that keep a rule on the whole way, and that are short of what you say.
#include <fmt/format.h>
#include <elbowroom/route/route.hpp>

#include "desk_arm.hpp"

int main() {
  using namespace er::literals;
  const er::CellQuery query = desk_with_wall(0.3);
  const er::Posture left = beside_wall(40.0_deg);
  const er::Posture right = beside_wall(-40.0_deg);

  er::RouteOptions options{.clearance = 10.0_mm};
  const auto shortest = er::find_route(query, left, {right}, options);
  if (!shortest) return fmt::print("{}\n", shortest.reason()), 1;
  fmt::print("{}\n", shortest->summary(query));

  // The tip stays below a lamp; proved for the whole way, as the clearance is.
  er::InRoom below;
  below.along = {er::Band::free(), er::Band::free(), er::Band{0.0, 0.42}};
  options.rules = {{.name = "below the lamp", .holds = below}};
  const auto kept = er::find_route(query, left, {right}, options);
  if (!kept) return fmt::print("{}\n", kept.reason()), 1;
  fmt::print("{}\n{}", kept->summary(query), kept->report(query));

  // Far from everything, if that is to be had for a little more travel.
  options.cost.near = 5.0;
  options.planner = er::RoutePlanner::improving;
  const auto wide = er::find_route(query, left, {right}, options);
  if (!wide) return fmt::print("{}\n", wide.reason()), 1;
  fmt::print("{}\n", wide->summary(query));
}
