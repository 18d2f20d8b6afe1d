#include "picture.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/units.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er::cli {

std::string plot_title(const PlannedRoutine& planned) {
  const std::string& name = planned.routine.name;
  return fmt::format("{}, {}: {}", planned.routine.arm, name.empty() ? "routine" : name,
                     text_time(planned.duration()));
}

void add_tool_path(Scene& scene, const Arm& arm, const Motion& motion) {
  std::vector<Vector3> points;
  const int samples = static_cast<int>(std::ceil(motion.duration() * 100.0));
  for (int i = 0; i <= samples; ++i)
    points.push_back(
        tool_pose(arm, arm.tool({}), motion.at(motion.duration() * i / samples).position).position);
  scene.add_path(points, {0.10, 0.32, 0.62});
}

}  // namespace er::cli
