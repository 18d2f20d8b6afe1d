// How the steps of a routine are read.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/files/document.hpp"
#include "elbowroom/files/target_reading.hpp"
#include "elbowroom/routine/step.hpp"

namespace er {

/// What the steps of one file may refer to.
struct StepContext {
  const Cell& cell;
  const Arm& arm;
  const TargetDefaults& defaults;
  const std::vector<Target>& targets;
  const std::vector<std::string>&
      target_pieces;  ///< of each: the piece in whose frame it is, or ""
  std::filesystem::path file = {};
  std::vector<Drawing>& drawings;  ///< those of the steps read so far
};

/// One entry under `steps:`, which may stand for several steps; `of` is what they are a part of.
void read_steps(const Node& node, const StepContext& context, const std::string& of,
                std::vector<Step>& out);

/// Zero or more, in metres.
double read_clearance(const Node& node);

}  // namespace er
