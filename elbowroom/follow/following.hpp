// What came of following a path.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/follow/step_log.hpp"
#include "elbowroom/follow/velocity_step.hpp"

namespace er {

struct Following : StepLog {
  FollowMode mode = FollowMode::limited;
  double asked = 0.0;     ///< s that the path lasts
  double followed = 0.0;  ///< s of it that were followed

  /// The first line is the answer.
  [[nodiscard]] std::string summary(const CellQuery& query) const;
  [[nodiscard]] std::string report(const CellQuery& query) const;
};

/// A table of several, and why each no is one.
std::string comparison(const std::vector<Following>& all);

std::string_view name_of(FollowMode mode);
/// Throws InputError with the four names.
FollowMode follow_mode_named(std::string_view name);

}  // namespace er
