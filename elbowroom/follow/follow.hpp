// Following a recorded path at a fixed rate, and what came of it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "elbowroom/follow/way_ahead.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er {

struct FollowOptions {
  FollowMode mode = FollowMode::limited;
  double rate = 1000.0;          ///< steps a second, 10 to 100000
  double clearance = 0.005;      ///< m, kept by `limited` all along; the others only measure it
  double deviation = 1e-4;       ///< m that the tool may stray, and the answer still be yes
  double turn_deviation = 1e-3;  ///< rad, the same
  double gain = 20.0;            ///< 1/s: how quickly the tool is brought back to the path
  PathFreedom free = {};         ///< what the path leaves open
  Posture towards = {};          ///< what redundant joints are drawn to; empty: mid range
};

/// The state at the end of a step.
struct FollowSample {
  double time = 0.0;       ///< s
  double path_time = 0.0;  ///< s, on the path's own clock
  Posture posture;
  Posture velocity;    ///< during the step before
  double scale = 1.0;  ///< of the path's speed, in that step
  double off = 0.0;    ///< m from where the path is at path_time
  double off_angle = 0.0;
};

/// A stretch that was passed slower than recorded.
struct Slowdown {
  double from = 0.0;  ///< s
  double to = 0.0;
  double least_scale = 1.0;
  double lost = 0.0;  ///< s
  std::string why;
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

std::string_view name_of(FollowMode mode);
/// Throws InputError with the four names.
FollowMode follow_mode_named(std::string_view name);

/// Follows the path with the tool from `start`, where the tool is at the beginning of the path to
/// within 1 um and 1 urad. `limited` looks at the whole path ahead: it slows early enough for what
/// comes, keeps every joint limit in every step and the clearance all the way, and stops before
/// what it cannot pass. The other modes do what they do, and are measured. Motion is at constant
/// joint velocity from step to step. Throws InputError for options out of their ranges, a start
/// elsewhere, and `plain` where joints and what the path holds are not equal in number.
Following follow(const CellQuery& query, const Tool& tool, const PosePath& path,
                 const Posture& start, const FollowOptions& options = {});

/// Follows from each start until one follows the whole path; else the one that came furthest.
Following follow_from_any(const CellQuery& query, const Tool& tool, const PosePath& path,
                          const std::vector<Posture>& starts, const FollowOptions& options = {});

}  // namespace er
