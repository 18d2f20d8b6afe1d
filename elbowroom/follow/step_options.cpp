#include "elbowroom/follow/step_options.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/input_error.hpp"

namespace er {

void check_step_options(const TrackedTool& tool, FollowMode mode, double rate, double gain,
                        double clearance) {
  if (!(rate >= 10.0 && rate <= 1e5))
    throw InputError(fmt::format("the rate is 10 to 100000 steps a second, found {}", rate));
  if (!(gain > 0.0 && gain <= rate))
    throw InputError("the gain is above zero and at most the rate");
  if (!(clearance >= 0.0) || !std::isfinite(clearance))
    throw InputError("the clearance is zero or more");
  const Arm& arm = tool.arm();
  if (mode == FollowMode::plain && tool.held() != arm.dof())
    throw InputError(fmt::format("{} of 6 are held, arm '{}' has {} moving joints: a matrix "
                                 "that is not square has no plain inverse",
                                 tool.held(), arm.name(), arm.dof()),
                     "use pseudo, damped or limited");
}

Posture drawn_towards(const Arm& arm, const Posture& given) {
  if (given.size() == 0) return arm.mid_range();
  arm.check_posture(given, "the posture that joints are drawn to");
  return given;
}

}  // namespace er
