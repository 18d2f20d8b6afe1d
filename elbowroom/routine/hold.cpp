#include "elbowroom/routine/hold.hpp"

#include "elbowroom/kinematics/forward.hpp"

namespace er {

std::vector<Hold> holds_of(const Arm& arm) {
  std::vector<Hold> out;
  for (const Link& link : arm.links()) {
    if (!link.held) continue;
    for (const Tool& tool : arm.tools()) {
      if (tool.link_index != link.parent_index) continue;
      out.push_back({link.name, tool.name, link.joint.origin.inverse() * tool.tip});
      break;
    }
  }
  return out;
}

Pose place_of(const Hold& hold, const Arm& arm, const Posture& posture) {
  return tool_pose(arm, arm.tool(hold.tool), posture) * hold.tip.inverse();
}

}  // namespace er
