// Uses the installed core alone: no files, no tool.
#include <elbowroom/kinematics/forward.hpp>

#include <cmath>

int main() {
  using namespace er::literals;
  er::Link base{.name = "base"};
  er::Link hand{.name = "hand"};
  hand.joint = {.kind = er::JointKind::revolute, .axis = er::Vector3::UnitZ()};
  const er::Arm arm =
      er::Arm::build({.name = "one",
                      .links = {base, hand},
                      .tools = {{.name = "tip", .tip = er::Pose::at({0.3, 0, 0})}}});
  const er::Posture quarter = er::Posture::Constant(1, 90.0_deg);
  const er::Pose tip = er::tool_pose(arm, arm.tool("tip"), quarter);
  return std::abs(tip.position.y() - 0.3) < 1e-12 ? 0 : 1;
}
