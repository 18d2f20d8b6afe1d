// Straight lines put to the proof on behalf of the planners, with a tally of what blocked them.
#pragma once

#include <map>
#include <string>
#include <utility>

#include "elbowroom/collision/sweep.hpp"

namespace er {

class LineProver {
 public:
  LineProver(const CellQuery& query, double clearance)
      : query_(query), options_{.clearance = clearance, .measure_overlap = false}, memory_(query) {}

  [[nodiscard]] const CellQuery& query() const { return query_; }

  /// True when the straight joint line is proved free.
  bool is_free(const Posture& from, const Posture& to);

  [[nodiscard]] double clearance() const { return options_.clearance; }
  /// Counts what another has proved as its own.
  void add_tally(const LineProver& other);

  [[nodiscard]] long lines() const { return lines_; }
  [[nodiscard]] long checks() const { return checks_; }

  /// "teasel.forearm and kiln (61 %), teasel.gripper and cup_2 (20 %)": what blocked lines most.
  [[nodiscard]] std::string what_blocked_most() const;
  /// All that lines were blocked by, those that blocked most first; the arm's own links among them.
  [[nodiscard]] std::vector<int> bodies_that_blocked() const;

 private:
  const CellQuery& query_;
  SweepOptions options_;
  SweepMemory memory_;
  long lines_ = 0;
  long checks_ = 0;
  std::map<std::pair<int, int>, long> blocked_by_;
};

}  // namespace er
