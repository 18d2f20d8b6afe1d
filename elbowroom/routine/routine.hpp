// Routines: an ordered list of steps for one arm, planned and paced as a whole.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "elbowroom/pace/pace.hpp"
#include "elbowroom/reach/reach.hpp"
#include "elbowroom/route/route.hpp"

namespace er {

enum class StepKind {
  go_to_stance,  ///< a free move to a stance
  go_to_target,  ///< a free move to a posture that meets a target
  line_to,       ///< a straight tool move to a target
};

struct Step {
  std::string name = {};
  StepKind kind = StepKind::go_to_stance;
  std::string stance = {};
  Target target = {};
  std::optional<double> clearance = {};  ///< metres; the routine's own when not given
  std::optional<double> speed = {};      ///< share of the velocity limits
  std::vector<Requirement> keep = {};    ///< of a free move: what has to hold on the whole way
  RouteCost cost = {};                   ///< of a free move: what it should be short of
  int improve = 0;  ///< of a free move: rounds of going on for a cheaper one; 0 is none
};

struct Routine {
  std::string name = {};
  std::string arm = {};
  std::string start = "home";  ///< the stance it begins in
  std::vector<Step> steps = {};
  double clearance = 0.005;  ///< metres, for steps that do not say
  double speed = 1.0;        ///< share of the velocity limits, for steps that do not say
  Profile profile = Profile::quintic;
  bool keep_jerk = false;  ///< of Profile::time_optimal
  /// Rounds corners of free moves that keep no rules; of Profile::time_optimal.
  std::optional<CornerBounds> corners = {};
  std::uint64_t seed = 1;
};

struct PlannedStep {
  Step step = {};
  double clearance = 0.0;  ///< what was proved for the whole step, metres
  Motion motion = {};
  int way = 0;   ///< which of the postures that meet the target was taken, from 1; 0 for no choice
  int ways = 0;  ///< how many there were
};

struct PlannedRoutine {
  Routine routine = {};
  std::vector<PlannedStep> steps = {};

  [[nodiscard]] double duration() const;
  /// s, when each step ends.
  [[nodiscard]] std::vector<double> ends() const;
  /// All steps as one motion.
  [[nodiscard]] Motion whole() const;
};

/// Plans every step from where the one before it ends. A free move to a target goes only to
/// postures from which the straight moves right after it can be done whole. A no names the step.
Verdict<PlannedRoutine> plan_routine(const CellQuery& query, const Routine& routine,
                                     const Supervision& supervision = {});

}  // namespace er
