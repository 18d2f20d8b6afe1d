#include "elbowroom/pace/tool_moments.hpp"

#include <algorithm>

#include "elbowroom/kinematics/forward.hpp"

namespace er {

std::vector<ToolMoment> tool_moments(const Motion& motion, const Arm& arm, const Tool& tool,
                                     int samples) {
  std::vector<ToolMoment> out;
  JointState state;
  Jacobian jacobian;
  for (int i = 0; i <= samples; ++i) {
    motion.at(motion.duration() * i / samples, state);
    const Pose tip = tool_jacobian(arm, tool, state.position, jacobian);
    const double way =
        out.empty() ? 0.0 : out.back().way + (tip.position - out.back().tip.position).norm();
    out.push_back({tip, way, (jacobian.topRows<3>() * state.velocity).norm()});
  }
  return out;
}

double highest_speed(const std::vector<ToolMoment>& moments) {
  double most = 0.0;
  for (const ToolMoment& moment : moments) most = std::max(most, moment.speed);
  return most;
}

}  // namespace er
