// A control loop whose target changes while the joints are moving: asked anew in every cycle, from
// whatever state they are in, no limit is ever passed.
#include <fmt/format.h>
#include <elbowroom/pace/state_move.hpp>

#include "desk_arm.hpp"

int main() {
  using namespace er::literals;
  const er::Arm arm = desk_with_wall(0.4).arm();
  const auto limits = er::axis_limits(arm.limits());
  const double cycle = 0.004;

  const er::Posture still = er::Posture::Zero(arm.dof());
  er::JointState now{beside_wall(40.0_deg), still, still, still};
  er::JointState target{beside_wall(-40.0_deg), still, still, still};
  double velocity = 0.0;  // the largest share of a limit
  double acceleration = 0.0;
  int cycles = 0;
  for (;; ++cycles) {
    // Half-way there somebody wants the arm elsewhere.
    if (cycles == 60) target.position = beside_wall(70.0_deg);
    const er::StateMove move(now, target, limits);
    if (move.duration() == 0.0) break;
    move.at(cycle, now);
    velocity =
        std::max(velocity, now.velocity.cwiseAbs().cwiseQuotient(arm.limits().velocity).maxCoeff());
    acceleration =
        std::max(acceleration,
                 now.acceleration.cwiseAbs().cwiseQuotient(arm.limits().acceleration).maxCoeff());
  }
  fmt::print(
      "there after {:.3f} s, asked {} times; at most {:.1f} % of a velocity limit and {:.1f} % of "
      "an "
      "acceleration limit\n",
      cycles * cycle, cycles, 100.0 * velocity, 100.0 * acceleration);
  return velocity <= 1.0 + 1e-9 && acceleration <= 1.0 + 1e-9 ? 0 : 1;
}
