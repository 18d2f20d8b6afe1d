// How far the arms of a routine are from each other while it runs.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/routine/routine.hpp"

namespace er {

struct ArmsApart {
  double time = 0.0;      ///< s
  double distance = 0.0;  ///< m, of any two arms, with what they hold
  std::string pair = {};  ///< "teasel.cup_2, bracken.peel"
};

/// At `rate` times a second and at the end. `found` is the cell as the routine finds it. Throws
/// InputError for a routine of one arm.
std::vector<ArmsApart> arms_apart(const Cell& found, const PlannedRoutine& planned, double rate);

}  // namespace er
