// One routine under each profile: how long it takes, what it asks of the joints, how smooth it is.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/rehearse/rehearse.hpp"

namespace er {

struct ProfileRun {
  Profile profile = Profile::quintic;
  bool keep_jerk = false;               ///< of Profile::time_optimal
  Motion motion = {};                   ///< all steps as one
  std::vector<double> boundaries = {};  ///< s, at which steps end
  MotionPeaks peaks = {};
  double jump = 0.0;  ///< of an acceleration, the largest as a share of its limit: 0 is smooth
  double tool_speed = 0.0;  ///< m/s, the highest of samples
  bool passed = false;      ///< by a rehearsal
};

/// Plans and rehearses the routine under every profile but the cubic one, and the time-optimal one
/// with jerk limits, too, where the arm states them all; it goes round corners where the routine
/// says so, with the one that can. A no when it cannot be planned under one of them.
Verdict<std::vector<ProfileRun>> compare_profiles(const CellQuery& query, const Routine& routine,
                                                  const Supervision& supervision = {});

/// A table, a line for each, and which is the quickest.
std::string comparison_text(const std::vector<ProfileRun>& runs);

}  // namespace er
