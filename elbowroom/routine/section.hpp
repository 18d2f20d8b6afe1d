// Some steps of a routine, one after the other, planned as one from a state they begin in.
#pragma once

#include <vector>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/base/verdict.hpp"
#include "elbowroom/routine/routine.hpp"
#include "elbowroom/routine/step_ways.hpp"
#include "elbowroom/routine/way_search.hpp"

namespace er {

class Section {
 public:
  /// `steps`: their numbers in the routine, from 0.
  /// After each step no more than `width` states are gone on from: those that can be got to
  /// soonest.
  Section(StepPlanner& planner, const Routine& routine, const std::vector<int>& steps,
          const RoutineState& start, std::size_t width, const RoutineOptions& options,
          const Supervision& supervision);

  struct Planned {
    std::vector<PlannedStep> steps = {};
    RoutineState end = {};
    bool is_quickest = true;
  };
  /// The quickest combination of ways; or which step stops it, and why.
  Verdict<Planned> plan();
  /// After a no: all reasons, and what would have to change, which takes longer to find out.
  Reason why_not();
  /// Nothing goes on from the end of what was planned last: the next time, another one.
  void leave_out_end();

  /// Some states were not gone on from.
  [[nodiscard]] bool is_narrowed() const { return narrowed_; }

  /// What was looked at since the last time it was asked for.
  int take_ways();
  int take_looks();

 private:
  [[nodiscard]] const Step& step(std::size_t layer) const {
    return routine_.steps[static_cast<std::size_t>(steps_[layer])];
  }
  void narrow(StepWays& ways, std::vector<double>& soonest, std::size_t width);
  std::optional<WaySearch::Found> look(int layer, int move, int tries);
  void finish(const WaySearch::Way& way);
  [[nodiscard]] std::vector<PlannedStep> planned(const WaySearch::Way& way) const;
  [[nodiscard]] std::string title(std::size_t layer) const;
  // The first step that nothing leads over, and from which states before it there was a way to it.
  [[nodiscard]] std::pair<std::size_t, std::vector<bool>> stopped_at() const;
  [[nodiscard]] Reason no() const;
  [[nodiscard]] std::string no_text(std::size_t layer, const std::vector<bool>& reached,
                                    const std::vector<std::string>& reasons) const;
  [[nodiscard]] std::vector<std::string> reasons_at(std::size_t layer,
                                                    const std::vector<bool>& reached) const;
  std::string earlier_choice(std::size_t layer, const std::vector<bool>& reached);
  [[nodiscard]] std::string ruled_out_by(std::size_t layer, int state) const;

  struct Looked {
    std::optional<StepMotion> motion;
    std::string reason;
    Cause cause = Cause::step_refused;
    bool not_straight = false;  // a first look at a free move said so
  };

  StepPlanner& planner_;
  const Routine& routine_;
  std::vector<int> steps_;
  const RoutineOptions& options_;
  const Supervision& supervision_;
  std::vector<std::vector<RoutineState>> states_;  // before each step, and after the last
  std::vector<StepWays> ways_;                     // of each step, as far as there are any
  std::vector<std::vector<Looked>> looked_;        // at each move of each step
  std::optional<WaySearch> search_;
  bool narrowed_ = false;
  int vain_ = 0;  // searches for free moves that came to nothing
  int last_end_ = 0;
  int ways_taken_ = 0;
  int looks_taken_ = 0;
};

}  // namespace er
