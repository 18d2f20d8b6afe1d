// A route round a wall, proved free of collision, and the motion that follows it.
#include <fmt/format.h>
#include <elbowroom/pace/pace.hpp>

#include "desk_arm.hpp"

int main() {
  using namespace er::literals;
  const er::CellQuery query = desk_with_wall(0.4);
  const er::Posture left = beside_wall(40.0_deg);
  const er::Posture right = beside_wall(-40.0_deg);

  const auto route = er::find_route(query, left, {right}, {.clearance = 10.0_mm});
  if (!route) return fmt::print("{}\n", route.reason()), 1;
  fmt::print("{}\n{}", route->summary(query), route->report(query));

  const auto paced = er::pace(*route, query, {.profile = er::Profile::trapezoid});
  if (!paced) return fmt::print("{}\n", paced.reason()), 1;
  fmt::print("{}\n{}", paced->summary(), paced->report(query.arm()));
}
