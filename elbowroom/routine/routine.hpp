// Routines: an ordered list of steps for one or more arms, planned and paced as a whole.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/pace/pace.hpp"
#include "elbowroom/routine/hold.hpp"
#include "elbowroom/routine/step.hpp"

namespace er {

/// An arm that takes part in a routine beside the first.
struct ArmStart {
  std::string arm = {};
  std::string start = "home";  ///< the stance it begins in
};

struct Routine {
  std::string name = {};
  std::string arm = {};               ///< the first
  std::string start = "home";         ///< the stance it begins in
  std::vector<ArmStart> others = {};  ///< further arms that take part
  /// Whether steps of one arm begin while another one moves, as early as it is proved that they do
  /// not meet. Else one moves at a time, in the order of the steps.
  bool at_once = false;
  std::vector<Step> steps = {};
  std::vector<Drawing> drawings = {};  ///< that its steps draw
  double clearance = 0.005;            ///< metres, for steps that do not say
  double speed = 1.0;                  ///< share of the velocity limits, for steps that do not say
  Profile profile = Profile::quintic;
  bool keep_jerk = false;  ///< of Profile::time_optimal
  /// Rounds corners of free moves that keep no rules; of Profile::time_optimal.
  std::optional<CornerBounds> corners = {};
  std::uint64_t seed = 1;

  /// All that take part, the first one first.
  [[nodiscard]] std::vector<std::string> arms() const;
  /// The stance that one of them begins in, by its number.
  [[nodiscard]] const std::string& start_of(std::size_t number) const {
    return number == 0 ? start : others[number - 1].start;
  }
  /// That does a step.
  [[nodiscard]] const std::string& arm_of(const Step& step) const {
    return step.arm.empty() ? arm : step.arm;
  }
  /// m, as a step asks for it, or all of them do.
  [[nodiscard]] double clearance_of(const Step& step) const {
    return step.clearance.value_or(clearance);
  }
  /// How a step is paced; corners are not rounded.
  [[nodiscard]] PaceOptions pacing_of(const Step& step) const;
  /// A cell in which the arms that take part are one (arms_as_one), if they are several; and that
  /// arm.
  [[nodiscard]] Cell moving_cell(const Cell& cell) const;
  [[nodiscard]] const Arm& moving_arm(const Cell& moving) const;
  /// Signals that steps hang on, in the order in which they are read.
  [[nodiscard]] std::vector<std::string> signals() const;
  /// The number (from 0) of the step that a name in Step::after of step `number` stands for: the
  /// last one before it that another arm does, and that has this name or is a part of what has it.
  /// -1 for none.
  [[nodiscard]] int waited_for(int number, const std::string& wanted) const;
};

/// Where a piece is found when the routine is run, and how well that is known.
struct PieceInput {
  std::string piece = {};
  std::optional<Pose> at = {};  ///< in the world; empty: where the cell has it
  double within = 0.0;          ///< m that it may be off, any way
  double turned_within = 0.0;   ///< rad that it may be turned, any way
};

struct RoutineOptions {
  /// The verdict holds for every place of these pieces within what is said of them.
  std::vector<PieceInput> pieces = {};
  /// Another posture for the first arm to begin in than the routine's stance; empty for that.
  Posture start = {};
  /// A combination is taken when no other can be quicker by more than this share.
  double worthwhile = 0.05;
  /// Moves planned at most to find a quicker one, once a combination works.
  int most_looks_after = 100;
};

struct PlannedStep {
  Step step = {};
  double clearance = 0.0;  ///< proved for the whole step, m, with pieces wherever they may be
  Motion motion = {};
  int way = 0;           ///< which of the ways to be at its end was taken, from 1; 0 for no choice
  int ways = 0;          ///< how many there were
  int number = 0;        ///< of the step in the routine, from 1
  std::string how = {};  ///< that way in words: a target, a grasp, a branch
  std::optional<Cell> cell = {};  ///< what stands where during the step, and what is held
  /// Pairs that may touch during the step, beside those of the cell as it is described.
  std::vector<MeantContact> excused = {};
  std::vector<std::string> refused = {};  ///< why other ways of it could not be done, one each
  std::size_t signals = 0;                ///< how many had been read before it was chosen
  double begins = 0.0;                    ///< s since the routine began
  double waits = 0.0;                     ///< s that its arm stands still before, for another arm
  std::string waits_for = {};             ///< what would be too near, or what is not done yet
  std::optional<Hold> grips = {};         ///< of a grip: how the piece is held from now on
  std::optional<Pose> leaves = {};        ///< of a release: where the piece stands from now on

  [[nodiscard]] double duration() const { return motion.duration(); }
  [[nodiscard]] double ends() const { return begins + duration(); }
};

/// A signal, and what it says.
struct SignalValue {
  std::string signal = {};
  bool is = true;
};

/// Steps that cannot be done, so that others are in their stead, and why they cannot.
struct Instead {
  std::string of = {};  ///< the first of them, by name
  std::string reason = {};
};

/// What is done for certain values of the signals.
struct PlannedPath {
  std::vector<SignalValue> signals = {};
  std::vector<PlannedStep> steps = {};
  std::vector<Instead> instead = {};

  /// "wet: yes, late: no"; empty without signals.
  [[nodiscard]] std::string text() const;
};

struct PlannedRoutine {
  Routine routine = {};
  std::vector<PlannedStep> steps = {};    ///< of the path that is looked at: the first one
  std::vector<SignalValue> signals = {};  ///< of that path
  std::vector<Instead> instead = {};      ///< of that path
  std::vector<PlannedPath> paths =
      {};                            ///< every one; all begin alike, up to where a signal is read
  std::vector<Posture> starts = {};  ///< of the arms, in the order of Routine::arms()
  double worthwhile = 0.0;           ///< as was asked for
  double uncertainty = 0.0;  ///< m kept beside every clearance, for pieces that are elsewhere
  int ways = 0;              ///< postures to be in, over all steps
  int looks = 0;             ///< moves planned
  bool is_quickest = true;   ///< of the ways looked at, to within `worthwhile`
  double seconds = 0.0;      ///< that planning took

  /// The same with another path looked at.
  [[nodiscard]] PlannedRoutine along(std::size_t path) const;
  /// The number of the first path on which some signals say this; the others may say anything.
  /// Throws InputError for a signal that the routine does not hang on, and when there is no such
  /// path.
  [[nodiscard]] std::size_t path_where(const std::vector<SignalValue>& asked) const;
  /// s, until the last step is over.
  [[nodiscard]] double duration() const;
  /// s, when each step ends.
  [[nodiscard]] std::vector<double> ends() const;
  /// All steps of an arm, with its rests, up to the end of the routine.
  [[nodiscard]] Motion whole(const std::string& arm) const;
  /// All steps as one motion: of the only arm, or of all as one (arms_as_one).
  [[nodiscard]] Motion whole() const;
  [[nodiscard]] Posture posture_of(const std::string& arm, double time) const;
  /// What stands and is held at a time, in the cell that the routine begins in.
  [[nodiscard]] Cell cell_at(const Cell& cell, double time) const;
  /// Which of the steps that were planned has this number in the routine (PlannedStep::number),
  /// from 0. Throws InputError: none has, on this path.
  [[nodiscard]] int index_of(int number) const;
  /// Steps `first` to `last` of those planned, from 1, alone, one after the other, each arm
  /// standing where the steps before these leave it.
  /// Throws InputError for steps that are not there.
  [[nodiscard]] PlannedRoutine part(int first, int last) const;
  /// Where a piece of the cell that the routine begins in is at a time, in the world.
  [[nodiscard]] Pose place_of(const Body& piece, double time) const;
  /// What the search looked at: the ways of each step, and those that could not be done.
  [[nodiscard]] std::string explanation() const;
};

/// A cell after a step of an arm: what it grips is held from then on, what it lets go of stands.
Cell cell_after(const Cell& before, const PlannedStep& step, const std::string& arm);

/// Plans the whole: of all ways to do its steps that combination which takes least time, postures'
/// costs counted in, such that every move can be done: proved free, within every limit. Contacts
/// that steps mean are excused for that step alone. After a piece was released and the arm goes on
/// with a free move, what was planned up to there stays, unless nothing goes on from it. A no names
/// the step, what stops it, and which earlier choice would have to be another one. Throws
/// InputError for steps that cannot mean anything: pieces that are not there or not held, no steps.
/// Where steps hang on signals (Step::when), every path is planned: the answer is yes only when all
/// of them can be done, and what comes before a signal is the same whatever it will say. A signal
/// is read when all steps before the first that hangs on it are over, and keeps its value. Steps
/// that others may stand in for are done themselves where the whole works so.
Verdict<PlannedRoutine> plan_routine(const CellQuery& query, const Routine& routine,
                                     const RoutineOptions& options = {},
                                     const Supervision& supervision = {});

}  // namespace er
