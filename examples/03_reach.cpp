// Which postures put the tip here, clear of a post? And why does none, a little further away?
#include <fmt/format.h>
#include <elbowroom/reach/reach.hpp>

#include "desk_arm.hpp"

int main() {
  using namespace er::literals;
  const er::Body post{
      .name = "post", .at = er::Pose::at({0.3, 0.25, 0.2}), .parts = {{er::Cylinder{0.02, 0.4}}}};
  const er::CellQuery query(er::Cell::build({.arms = {desk_arm()}, .fixtures = {post}}),
                            "desk_arm");

  // Four joints: the tip's position and the slope of the hand can be chosen.
  for (const double distance : {0.45, 0.85}) {
    const er::Pose pose{er::rotation_from_rpy(0, 20.0_deg, 0), {distance, 0, 0.15}};
    const auto target = er::Target{}.place("tip", pose).within(0.01_mm, 0.01_deg);
    const auto reach = er::reach(query, target, {.clearance = 5.0_mm});
    fmt::print("tip at {:.0f} mm:\n", er::to_mm(distance));
    if (reach)
      fmt::print("{}\n{}", reach->summary(query), reach->report(query));
    else
      fmt::print("{}\n", reach.reason());
  }
}
