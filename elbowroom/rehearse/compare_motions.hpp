// Two motions of the same joints compared, such as what was planned and what was recorded.
#pragma once

#include <string>

#include "elbowroom/model/arm.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er {

struct CompareOptions {
  double most_lag = 0.5;  ///< s, either way, that is looked for
  std::string tool = {};  ///< empty: the first
};

struct MotionComparison {
  double lag = 0.0;  ///< s that the second is behind the first; taken out of what follows
  Posture largest;   ///< per joint, rad or m: the largest difference
  Posture root_mean_square;
  double tool = 0.0;         ///< m: the largest distance of the tips
  double tool_at = 0.0;      ///< s, of the first
  double tool_before = 0.0;  ///< m: the same with the lag left in

  [[nodiscard]] std::string text(const Arm& arm) const;
};

/// The lag is the one that leaves the least sum of squared differences of the joints, to a
/// hundredth of a millisecond or so; both motions stand still before they begin and after they end.
/// Throws InputError for different numbers of joints.
MotionComparison compare_motions(const Arm& arm, const Motion& first, const Motion& second,
                                 const CompareOptions& options = {});

}  // namespace er
