// A free move of several arms at once, planned as one in the joints of them all: they may pass each
// other, or change places, where neither could go alone.
#pragma once

#include <vector>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/base/verdict.hpp"
#include "elbowroom/routine/goal_ways.hpp"
#include "elbowroom/routine/routine.hpp"
#include "elbowroom/routine/situation.hpp"

namespace er {

class SharedMove {
 public:
  /// `steps`: their numbers in the routine, from 0, one for each arm. `starts` are the postures the
  /// routine begins in, `postures` those the arms are in now, in the order of Routine::arms();
  /// `more`: m to keep beside every clearance.
  SharedMove(const CellQuery& query, const Cell& cell, const Routine& routine,
             const std::vector<int>& steps, const std::vector<Posture>& starts,
             const std::vector<Posture>& postures, double more, const Supervision& supervision);

  struct Planned {
    std::vector<PlannedStep> steps = {};
    std::vector<Posture> end = {};  ///< of all arms
    bool is_quickest = true;
  };
  /// The cheapest pair (or more) of ends that there is a way to; or why there is none.
  Verdict<Planned> plan();
  /// After a no: the same at length, with what would cure it, which takes longer to find out.
  Reason why_not();
  /// Nothing goes on from the end of what was planned last: the next time, another one.
  void leave_out_end();

  /// What was looked at since the last time it was asked for.
  int take_ways();
  int take_looks();

 private:
  struct End {
    std::vector<std::size_t> ways = {};  // of each arm's, which
    Posture posture = {};                // of all that move, as one
    double cost = 0.0;
  };
  struct Mover {
    std::size_t arm = 0;  // of Routine::arms()
    int step = 0;
    std::vector<GoalWay> ways = {};
  };
  [[nodiscard]] Situations situations_of(const Mover& mover) const;
  void find_ends();
  [[nodiscard]] Planned planned(const End& end, const Motion& motion) const;
  [[nodiscard]] const Step& step(const Mover& mover) const {
    return routine_.steps[static_cast<std::size_t>(mover.step)];
  }
  [[nodiscard]] std::string title() const;
  [[nodiscard]] double least_time(const Posture& to) const;

  const CellQuery& query_;
  const Cell& cell_;
  const Routine& routine_;
  const std::vector<Posture>& starts_;
  std::vector<Posture> postures_;
  double more_;
  const Supervision& supervision_;
  std::vector<std::string> arms_;
  std::vector<Mover> movers_;
  CellQuery all_;  // of those that move, as one
  Posture from_;   // of them
  double clearance_ = 0.0;
  std::optional<Reason> no_way_;
  const Mover* without_way_ = nullptr;
  bool found_ends_ = false;
  std::vector<End> ends_;  // the cheapest first
  std::size_t last_end_ = 0;
  int ways_ = 0;
  int looks_ = 0;
};

}  // namespace er
