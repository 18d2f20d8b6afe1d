// Rehearsals: a planned routine replayed tick by tick in simulated time, with everything measured
// again. Nothing the planner believed is taken over: velocities and accelerations are differences
// of the sampled positions, and every pair of parts is looked at anew at every tick, by an
// enumeration of its own, without the planner's trees and bounds.
//
// The simulated drives follow their commands exactly.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/routine/routine.hpp"

namespace er {

struct RehearseOptions {
  double rate = 1000.0;  ///< ticks per second
};

/// The largest share of one limit used in a step, and by which joint.
struct MeasuredUse {
  double share = 0.0;
  int joint = -1;
};

/// A pair that may touch in a step, and how near it came: below zero is how deep.
struct ExcusedContact {
  MeantContact pair = {};
  double least = 0.0;  ///< m
};

struct RehearsedStep {
  int number = 0;        ///< in the routine, from 1
  std::string arm = {};  ///< that does it
  std::string name = {};
  std::string of = {};  ///< what the step is a part of
  std::string_view kind = {};
  std::string how = {};                ///< the way chosen, in words
  std::vector<std::string> held = {};  ///< pieces in the hand during the step
  std::vector<ExcusedContact> excused = {};
  double begins = 0.0;    ///< seconds from the start of the routine
  double duration = 0.0;  ///< seconds
  MeasuredUse range;      ///< 1 is at the end of a joint's range
  MeasuredUse velocity;
  MeasuredUse acceleration;
  MeasuredUse torque;            ///< no joint where masses or torque limits are not stated
  std::string torque_note = {};  ///< why torque limits that are stated are not looked at
  double clearance = std::numeric_limits<double>::infinity();  ///< the least at any tick, metres
  double clearance_time = 0.0;  ///< seconds from the start of the routine
  std::string nearest = {};     ///< the pair it was between: "teasel.gripper, cup_1"
  double asked_clearance = 0.0;
  double zone_share = 0.0;  ///< the most of a zone's speed cap that is used, where one is met
  std::string zone = {};    ///< that zone
  std::string fault = {};   ///< empty when the step may be run; or the first thing wrong with it
  int way = 0;
  int ways = 0;
};

struct Rehearsal {
  std::vector<RehearsedStep> steps = {};  ///< in the order in which they begin
  std::vector<std::string> arms = {};     ///< that take part
  int of = 0;                             ///< steps that the routine has
  long ticks = 0;
  double duration = 0.0;
  double seconds = 0.0;  ///< what the replay took

  [[nodiscard]] bool passed() const;
  /// The step that came nearest to something; null when nothing was there to meet.
  [[nodiscard]] const RehearsedStep* nearest() const;
  /// True when all steps are of arms that state torque limits and masses, and what they hold too.
  [[nodiscard]] bool measured_torques() const;
  [[nodiscard]] std::string summary() const;
  /// A line for each step; of many, one for each part of the routine (Step::of).
  [[nodiscard]] std::string report(const Cell& cell, bool every_step = false) const;
};

/// Replays a planned routine. Faults are part of the result: passed() says whether it may be run.
Rehearsal rehearse(const Cell& cell, const PlannedRoutine& planned,
                   const RehearseOptions& options = {}, const Supervision& supervision = {});

/// Each path of a routine that hangs on signals (PlannedRoutine::paths), whole.
std::vector<Rehearsal> rehearse_paths(const Cell& cell, const PlannedRoutine& planned,
                                      const RehearseOptions& options = {},
                                      const Supervision& supervision = {});

}  // namespace er
