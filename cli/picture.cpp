#include "picture.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/tool_path.hpp"
#include "elbowroom/model/arms_as_one.hpp"

namespace er::cli {

PlotOptions plot_of(const PlannedRoutine& planned) {
  const std::string& name = planned.routine.name;
  return {.title = fmt::format("{}, {}: {}", fmt::join(planned.routine.arms(), " and "),
                               name.empty() ? "routine" : name, text_time(planned.duration())),
          .boundaries = planned.ends()};
}

void add_tool_path(Scene& scene, const Arm& arm, const Motion& motion) {
  const int samples = static_cast<int>(std::ceil(motion.duration() * 100.0));
  for (const Tool& tool : first_tools(arm))
    scene.add_path(tool_path(arm, motion, samples, tool.name), kPathColour);
}

}  // namespace er::cli
