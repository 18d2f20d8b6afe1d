// Checks that a path keeps rules, with other means than the planner's: errors of requirements that
// are drawn in by what a frame can move, and a bound of the first order from distances to axes.
#pragma once

#include <vector>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/kinematics/target_on_arm.hpp"

namespace er {

struct CheckedRules {
  std::size_t rules = 0;
  long looks = 0;  ///< at a rule over a stretch of a line
};

/// Rules are kept to within this, m and rad.
inline constexpr double kRulesKeptTo = 1e-6;

/// A yes when every straight joint line keeps every rule that is on, at all of its points. A no
/// names the rule and the place where it is broken, or where it could not be shown to hold. Throws
/// InputError for a frame or joint that the arm does not have, as TargetOnArm does.
Verdict<CheckedRules> check_rules(const Arm& arm, const std::vector<Requirement>& rules,
                                  const std::vector<Posture>& waypoints);

}  // namespace er
