// One step from each of the states before it: where it may end, and the motion from one to the
// other.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/base/verdict.hpp"
#include "elbowroom/route/tool_curve.hpp"
#include "elbowroom/routine/routine.hpp"
#include "elbowroom/routine/situation.hpp"

namespace er {

/// How the arm stands between two steps, and in which situation.
struct RoutineState {
  Posture posture = {};
  int situation = 0;
  int way = 0;   ///< which of the ways to be there it is, from 1; 0 for no choice
  int ways = 0;  ///< how many there are
  std::string how = {};
};

/// A way to do a step, from a state before it to one after it. Nothing is proved yet.
struct StepMove {
  int from = 0;
  int to = 0;
  double least = 0.0;                    ///< s that it takes at least; costs of the posture added
  double posture_cost = 0.0;             ///< the latter alone
  std::optional<ToolPath> path = {};     ///< of tool moves
  std::vector<MeantContact> meant = {};  ///< what may touch during it
  std::shared_ptr<const ToolCurve> curve = {};  ///< of those that leave something open: proved
};

struct StepWays {
  std::vector<RoutineState> after = {};
  std::vector<StepMove> moves = {};
  /// States before it from which it cannot be done whatever stands around, and why.
  struct Refusal {
    int from = 0;
    Reason reason;
  };
  std::vector<Refusal> refused = {};
};

/// A step from one state to another, proved and paced.
struct StepMotion {
  Motion motion = {};
  Cell cell;
};

/// What the steps of one routine have in common.
class StepPlanner {
 public:
  /// `start`: the posture in which the arm begins the routine; `more`: m to keep beside every
  /// clearance.
  StepPlanner(Situations& situations, const Routine& routine, const Posture& start, double more)
      : situations_(situations), routine_(routine), start_(start), more_(more) {}

  /// Of tool moves that leave something open: the quickest way alone (1, as it begins), or others,
  /// too, that end well apart from it.
  void take_ends(std::size_t most) { ends_ = most; }

  /// All ways to go on from states that are one step after the other.
  StepWays ways_of(const Step& step, const std::vector<RoutineState>& before);
  /// How hard free moves are looked for.
  struct Effort {
    int tries = 20000;     ///< of the search for a route
    bool at_last = false;  ///< for the way that is taken: as good a one as the step asks for
  };
  Verdict<StepMotion> motion_of(const Step& step, const RoutineState& from, const RoutineState& to,
                                const StepMove& move, const Effort& effort,
                                const Supervision& supervision);

  /// Why a free move has no way to end, from a state before it, at full length.
  Reason why_no_end(const Step& step, const RoutineState& from);

  /// What would have to be left open for a tool move to be done from a state; "" for nothing tried.
  std::string freed_remedy(const Step& step, const RoutineState& from);

  [[nodiscard]] const Situations& situations() const { return situations_; }

 private:
  friend class StepExpansion;
  [[nodiscard]] double least_time(const Arm& arm, const Step& step, const Posture& from,
                                  const Posture& to) const;
  [[nodiscard]] double least_time_along(const Arm& arm, const Step& step,
                                        const std::vector<Posture>& knots) const;
  Verdict<StepMotion> moved(const Step& step, const CellQuery& query, const RoutineState& from,
                            const RoutineState& to, const StepMove& move, const Effort& effort,
                            const Supervision& supervision);
  // Without speeds of pieces that the arm does not hold.
  [[nodiscard]] PaceOptions pacing_for(const Step& step, const Arm& arm) const;
  Verdict<StepMotion> free_motion(const Step& step, const CellQuery& query, const Posture& from,
                                  const Posture& to, const Effort& effort,
                                  const Supervision& supervision);
  Verdict<StepMotion> tool_motion(const Step& step, const CellQuery& query, const Posture& from,
                                  const StepMove& move);
  Verdict<StepMotion> joint_motion(const Step& step, const CellQuery& query, const Posture& from,
                                   const Posture& to);

  Situations& situations_;
  const Routine& routine_;
  Posture start_;
  double more_;
  std::size_t ends_ = 1;
};

}  // namespace er
