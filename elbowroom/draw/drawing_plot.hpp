// What a tool draws over what was asked for, seen along the plane's own z.
#pragma once

#include <filesystem>

#include "elbowroom/draw/plot.hpp"
#include "elbowroom/routine/drawing.hpp"

namespace er {

/// A panel for each drawing of a routine: the strokes as asked for, wide, and the way of the tip
/// over them, with the worst and the mean error. PNG or SVG by the ending of `path`. Throws
/// InputError for a routine without drawings.
void plot_drawings(const std::filesystem::path& path, const PlannedRoutine& planned,
                   const PlotOptions& options);

}  // namespace er
