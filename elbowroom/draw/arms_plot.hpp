// Who moves when: a routine of several arms.
#pragma once

#include <filesystem>

#include "elbowroom/draw/plot.hpp"
#include "elbowroom/routine/routine.hpp"

namespace er {

/// A lane for each arm with its steps over time, by their numbers, what it holds shown by a bar
/// below; and under them how far the arms are from each other. `found` is the cell as the routine
/// finds it. PNG or SVG by the ending of `path`. Throws InputError as plot_motion does, and for one
/// arm.
void plot_arms(const std::filesystem::path& path, const Cell& found, const PlannedRoutine& planned,
               const PlotOptions& options = {});

}  // namespace er
