// Straight lines put to the proof on behalf of the planners, with a tally of what blocked them.
#pragma once

#include <map>
#include <memory>
#include <string>
#include <utility>

#include "elbowroom/collision/sweep.hpp"
#include "elbowroom/route/rules.hpp"

namespace er {

class LineProver {
 public:
  /// Lines have to keep `rules`, too, where there are some.
  LineProver(const CellQuery& query, double clearance, std::shared_ptr<const Rules> rules = nullptr)
      : query_(query),
        options_{.clearance = clearance, .measure_overlap = false},
        memory_(query),
        rules_(std::move(rules)) {}
  /// Another for the same lines, which has proved none yet.
  [[nodiscard]] LineProver fresh() const { return {query_, options_.clearance, rules_}; }

  [[nodiscard]] const CellQuery& query() const { return query_; }
  /// Null when there are none.
  [[nodiscard]] const Rules* rules() const { return rules_.get(); }

  /// True when the straight joint line is proved free, and to keep the rules.
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
  static constexpr int kOfRule = -1;
  [[nodiscard]] std::string name_of_blocker(std::pair<int, int> pair) const;

  const CellQuery& query_;
  SweepOptions options_;
  SweepMemory memory_;
  std::shared_ptr<const Rules> rules_;
  long lines_ = 0;
  long checks_ = 0;
  std::map<std::pair<int, int>, long> blocked_by_;  // the first kOfRule: a rule
};

}  // namespace er
