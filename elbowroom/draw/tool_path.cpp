#include "elbowroom/draw/tool_path.hpp"

#include "elbowroom/kinematics/forward.hpp"

namespace er {

std::vector<Vector3> tool_path(const Arm& arm, const JointCurve& curve, int count,
                               const std::string& tool) {
  std::vector<Vector3> points;
  for (int i = 0; i <= count; ++i) {
    const Posture posture = curve.at(curve.duration() * i / count).position;
    points.push_back(tool_pose(arm, arm.tool(tool), posture).position);
  }
  return points;
}

}  // namespace er
