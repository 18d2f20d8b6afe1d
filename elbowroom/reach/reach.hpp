// Reaching: the postures that meet a target, ranked, or why there is none.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/kinematics/target.hpp"

namespace er {

struct ReachOptions {
  /// Start postures the numeric solver is run from, spread evenly over the joint ranges, where
  /// there is no closed form or it gives no free posture. More find rare postures.
  int starts = 100;
  /// False asks the numeric solver always.
  bool use_closed_form = true;
  /// Every posture must keep further than this from everything it must not touch, metres.
  double clearance = 0.0;
  /// The posture that travel is counted from; empty means stance `home`, or the middle of the
  /// ranges.
  Posture from = {};
  /// When the answer is no: look for changes of the target that would make it a yes.
  bool find_remedies = true;
};

/// One posture that meets the target. The cost is the sum of its three parts, lowest is best.
struct ReachSolution {
  Posture posture = {};
  double position_error = 0.0;  ///< metres
  double angle_error = 0.0;     ///< radians
  Nearest nearest;              ///< the nearest pair at this posture
  std::string branch = {};      ///< shoulder, elbow, bend: "front, up, +" where there are such
  std::string free_joint = {};  ///< of a singular posture: a joint that may turn, others giving way
  double travel_cost = 0.0;     ///< largest turn from ReachOptions::from, in half turns (or metres)
  double room_cost = 0.0;       ///< 0 at 50 mm or more of clearance, rising to 1 at contact
  double limit_cost = 0.0;      ///< 0 with all joints in mid range, 1 with one at its limit

  [[nodiscard]] double cost() const { return travel_cost + room_cost + limit_cost; }
};

struct Reach {
  std::vector<ReachSolution> solutions = {};  ///< best first
  std::string branch_legend = {};  ///< what the words of a branch say, where they need it
  std::string form = {};           ///< of the closed form used, or empty
  bool complete = false;  ///< no posture of the target is missing: a closed form gave them all
  int beyond_limits = 0;  ///< distinct postures that meet the target outside the ranges
  int starts = 0;         ///< numeric solves made
  int converged = 0;      ///< of which so many met the target
  int colliding = 0;      ///< distinct postures that meet it but are too near something
  double seconds = 0;     ///< time taken

  [[nodiscard]] std::vector<Posture> postures() const;
  /// One line: how many postures, and the best one's clearance.
  [[nodiscard]] std::string summary(const CellQuery& query) const;
  /// A table of the first `most` postures in degrees (or mm).
  [[nodiscard]] std::string report(const CellQuery& query, std::size_t most = 12) const;
};

/// All postures by the closed form of the chain, where it has one; else, or when that gives no free
/// posture and the tolerances may help, by the numeric solver from many starts, which can miss one.
/// Keeps what is distinct (full-turn alternatives within the ranges are listed as postures of their
/// own), drops what is too near to something, and ranks the rest. The result says whether it is
/// complete.
/// Throws InputError when a joint has no range or the arm has no such tool.
Verdict<Reach> reach(const CellQuery& query, const Target& target,
                     const ReachOptions& options = {});
Verdict<Reach> reach(const Cell& cell, std::string_view arm, const Target& target,
                     const ReachOptions& options = {});

}  // namespace er
