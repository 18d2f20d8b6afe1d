// How the steps of a routine are read.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/files/document.hpp"
#include "elbowroom/files/target_reading.hpp"
#include "elbowroom/routine/step.hpp"

namespace er {

/// What the steps of one arm may refer to.
struct ArmContext {
  Arm arm;
  TargetDefaults defaults = {};
  std::vector<Target> targets = {};
  std::vector<std::string> target_pieces = {};  ///< of each: in whose frame it is, or ""
};

/// What the steps of one file may refer to.
struct StepContext {
  const Cell& cell;
  const std::vector<ArmContext>& arms;  ///< that take part; of several, each step names its own
  std::filesystem::path file = {};
  std::vector<Drawing>& drawings;  ///< those of the steps read so far
};

/// What a group says of all its steps.
struct StepGroup {
  std::string of = {};               ///< what they are a part of
  std::string arm = {};              ///< that does them; empty: they say so themselves
  std::vector<Condition> when = {};  ///< they are done
};

/// One entry under `steps:`, which may stand for several steps.
void read_steps(const Node& node, const StepContext& context, const StepGroup& group,
                std::vector<Step>& out);

/// Zero or more, in metres.
double read_clearance(const Node& node);

}  // namespace er
