// What came of following a path: every step, and what it used and kept.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/sweep.hpp"
#include "elbowroom/follow/velocity_step.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er {

/// The state at the end of a step; what was used is of the step before it.
struct FollowSample {
  double time = 0.0;       ///< s
  double path_time = 0.0;  ///< s, on the path's own clock
  Posture posture;
  Posture velocity;               ///< rad/s or m/s
  double scale = 1.0;             ///< of the path's speed
  double velocity_use = 0.0;      ///< the largest share of a joint's limit
  double acceleration_use = 0.0;  ///< the same
  double off = 0.0;               ///< m from where the path is at path_time
  double off_angle = 0.0;         ///< rad, the same
};

/// A stretch that was passed slower than recorded.
struct Slowdown {
  double from = 0.0;  ///< s
  double to = 0.0;
  double least_scale = 1.0;
  double lost = 0.0;  ///< s
  std::string why = {};
};

struct Following {
  FollowMode mode = FollowMode::limited;
  std::vector<FollowSample> samples;  ///< the first is the start, at rest
  double asked = 0.0;                 ///< s that the path lasts
  double followed = 0.0;              ///< s of it that were followed
  double worst_off = 0.0;             ///< m
  double worst_off_angle = 0.0;       ///< rad
  double worst_at = 0.0;              ///< s, of the worse of the two beside its tolerance
  PeakUse velocity;
  PeakUse acceleration;
  std::string range_breach;  ///< the first joint out of its range, or empty
  LeastClearance clearance;  ///< of straight joint lines through all samples
  std::vector<Slowdown> slowdowns;
  std::optional<Reason> no;  ///< why the path was not followed, or not within the limits

  [[nodiscard]] double duration() const { return samples.back().time; }
  /// The first line is the answer.
  [[nodiscard]] std::string summary(const CellQuery& query) const;
  [[nodiscard]] std::string report(const CellQuery& query) const;
};

/// A table of several, and why each no is one.
std::string comparison(const std::vector<Following>& all);

std::string_view name_of(FollowMode mode);
/// Throws InputError with the four names.
FollowMode follow_mode_named(std::string_view name);

/// Lengths and angles where micrometres count: "0.0023 mm", "under 0.0001 deg".
std::string fine_length(double metres);
std::string fine_angle(double radians);

}  // namespace er
