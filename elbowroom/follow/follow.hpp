// Following a recorded path at a fixed rate.
#pragma once

#include <vector>

#include "elbowroom/follow/following.hpp"
#include "elbowroom/follow/way_ahead.hpp"

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

/// The other modes from the same start, for comparison; `plain` only where it exists.
std::vector<Following> follow_in_other_modes(const CellQuery& query, const Tool& tool,
                                             const PosePath& path, const Posture& start,
                                             const FollowOptions& options = {});

/// Postures with the tool at the beginning of the path: all that reach it, best first; or, where
/// `near` is a posture, the one found from there.
Verdict<std::vector<Posture>> path_starts(const CellQuery& query, const Tool& tool,
                                          const PosePath& path, const Posture& near = {},
                                          const FollowOptions& options = {});

}  // namespace er
