// Describe an arm in code; ask where its tip is and how fast it moves.
#include <fmt/format.h>
#include <elbowroom/kinematics/forward.hpp>

#include "desk_arm.hpp"

int main() {
  using namespace er::literals;
  const er::Arm arm = desk_arm();
  const er::Tool& tip = arm.tool("tip");

  er::Posture posture(4);
  posture << 30.0_deg, -40.0_deg, 70.0_deg, -30.0_deg;

  const er::Pose pose = er::tool_pose(arm, tip, posture);
  fmt::print("the tip is at [{:.1f}, {:.1f}, {:.1f}] mm\n", er::to_mm(pose.position.x()),
             er::to_mm(pose.position.y()), er::to_mm(pose.position.z()));

  // One column per joint: the velocity of the tip for one radian per second of that joint.
  er::Jacobian jacobian;
  er::tool_jacobian(arm, tip, posture, jacobian);
  for (int k = 0; k < arm.dof(); ++k)
    fmt::print("  {:<16} moves it {:6.1f} mm a degree\n", arm.moving_joint(k).name,
               er::to_mm(jacobian.col(k).head<3>().norm()) * 1.0_deg);
}
