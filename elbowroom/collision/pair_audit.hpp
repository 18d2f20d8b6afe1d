// Which pairs of bodies can meet when an arm uses its whole range, and which need no checking.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/collision/cell_query.hpp"

namespace er {

enum class PairVerdict {
  meets,         ///< a posture was found in which they meet
  not_seen,      ///< no sampled posture has them meet; `share` bounds how often they can
  kept_apart,    ///< proved: no posture within the ranges brings them together
  always_meets,  ///< they meet in every sampled posture: one solid by design, or a wrong shape
  joined,        ///< neighbours over a joint, or rigidly fixed; never checked
  meant,         ///< listed as a meant contact; never checked
};

std::string_view name_of(PairVerdict verdict);

struct AuditedPair {
  std::string first = {};
  std::string second = {};
  PairVerdict verdict = PairVerdict::joined;
  int met = 0;                   ///< in so many of the sampled postures
  double nearest = 0.0;          ///< m, over the samples; below zero overlapping
  double proved_distance = 0.0;  ///< m, kept_apart: they never come nearer than this
  Posture posture = {};          ///< meets: one in which they do, the deepest sampled
};

struct PairAuditOptions {
  int samples = 20000;      ///< postures, drawn evenly over the ranges
  std::uint64_t seed = 1;   ///< of the draw
  int proof_boxes = 20000;  ///< most boxes of postures a proof may take, for one pair
  Supervision supervision = {};
};

struct PairAudit {
  std::vector<AuditedPair> pairs;  ///< those that meet first, joined and meant ones last
  int samples = 0;
  /// With 95 % confidence a pair that was not seen to meet meets in fewer than this share of
  /// postures, taken evenly over the ranges (the "rule of three": 3 / samples).
  double unseen_share = 0.0;
  double seconds = 0.0;

  [[nodiscard]] int count(PairVerdict verdict) const;
  [[nodiscard]] std::string summary(const Arm& arm) const;
  /// A table of the arm's own pairs, then one line for each thing that stands in the cell; with
  /// `all` every pair on a line of its own.
  [[nodiscard]] std::string report(const Arm& arm, bool all = false) const;
};

/// All pairs of links of one arm, and each of its moving links against every fixture, piece, zone
/// that keeps out, and link of another arm; both arms then move through their whole ranges. Proofs
/// split the box of postures that matter to a pair until the distance in the middle of each box
/// exceeds what the pair can close in within it.
PairAudit audit_pairs(const Cell& cell, const std::string& arm,
                      const PairAuditOptions& options = {});

}  // namespace er
