// Whether a joint curve stays within the ranges of an arm's joints.
#pragma once

#include <optional>
#include <string>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

struct LeftRange {
  double at = 0.0;        ///< the parameter at which the stretch begins in which it does
  std::string what = {};  ///< "joint rail would be at 801.5 mm, limit 800.0 mm"
};

/// Nothing when the positions stay within the ranges all along, exact to rounding between what the
/// curve goes through, too.
std::optional<LeftRange> leaves_ranges(const JointCurve& curve, const Arm& arm);

}  // namespace er
