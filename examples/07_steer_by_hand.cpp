// A loop that a controller would run: each millisecond a command comes from a hand, and the arm
// takes a step. Pushed against a post it slows down in time and stands still, whatever the hand
// wants.
#include <fmt/format.h>
#include <elbowroom/follow/steering.hpp>

#include "desk_arm.hpp"

int main() {
  using namespace er::literals;
  const er::Body post{.name = "post",
                      .at = er::Pose::at({450.0_mm, -180.0_mm, 400.0_mm}),
                      .parts = {{er::Cylinder{30.0_mm, 800.0_mm}}}};
  const er::Cell cell = er::Cell::build({.arms = {desk_arm()}, .fixtures = {post}});
  const er::CellQuery query(cell, "desk_arm");
  const er::Arm& arm = query.arm();

  // Four joints: the place of the tip is commanded, which way it points is left to them.
  const er::SteerOptions options{.clearance = 10.0_mm, .free = {.turn = true, .tilt = true}};
  er::Posture start(4);
  start << 0, -45.0_deg, 80.0_deg, 10.0_deg;
  er::Steering steering(query, arm.tool("tip"), start, options);

  const er::Twist to_the_right{.velocity = {0, -0.15, 0}};
  for (int tick = 0; tick <= 3000; ++tick) {
    if (tick % 500 == 0)
      fmt::print("{:.1f} s: y {:7.1f} mm, {:5.1f} % of the command, nearest {}\n", 0.001 * tick,
                 1000.0 * steering.tip().position[1], 100.0 * steering.share(),
                 query.describe(query.nearest(steering.posture())));
    steering.step(to_the_right);
  }
  const er::SlowBy& why = steering.slow_by();
  fmt::print("held back by {}\n", why.kind == er::SlowBy::Kind::clearance
                                      ? query.describe(why.nearest, options.clearance)
                                      : "something else");
  return why.kind == er::SlowBy::Kind::clearance ? 0 : 1;
}
