// Everything about a description that looks wrong, is missing or is odd, each with advice.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/model/cell.hpp"

namespace er {

enum class Severity { wrong, missing, odd };

std::string_view name_of(Severity severity);

/// One thing worth a look.
struct Finding {
  Severity severity = Severity::odd;
  std::string subject = {};  ///< "teasel, joint elbow"
  std::string text = {};
  std::string advice = {};
  Place place = {};  ///< in the file, where that is known
};

/// Of one arm: limits, units by their size, axes, shapes, masses, tools. The cell says which
/// contacts are meant. Stances are for the inspection to check.
std::vector<Finding> findings_of(const Cell& cell, const Arm& arm);

}  // namespace er
