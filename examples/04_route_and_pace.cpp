// A route round a wall, proved free of collision, and the motion that follows it.
#include <fmt/format.h>
#include <elbowroom/pace/pace.hpp>

#include "desk_arm.hpp"

int main() {
  using namespace er::literals;
  const er::Body wall{
      .name = "wall", .at = er::Pose::at({0.4, 0, 0.2}), .parts = {{er::Box{{0.5, 0.01, 0.4}}}}};
  const er::CellQuery query(er::Cell::build({.arms = {desk_arm()}, .fixtures = {wall}}),
                            "desk_arm");

  er::Posture left(4);
  er::Posture right(4);
  left << 40.0_deg, -10.0_deg, 30.0_deg, 0.0;
  right << -40.0_deg, -10.0_deg, 30.0_deg, 0.0;

  const auto route = er::find_route(query, left, {right}, {.clearance = 10.0_mm});
  if (!route) return fmt::print("{}\n", route.reason()), 1;
  fmt::print("{}\n{}", route->summary(query), route->report(query));

  const auto paced = er::pace(*route, query, {.profile = er::Profile::trapezoid});
  if (!paced) return fmt::print("{}\n", paced.reason()), 1;
  fmt::print("{}\n{}", paced->summary(), paced->report(query.arm()));
}
