// A plot of a tool steered by hand.
#pragma once

#include "elbowroom/draw/plot.hpp"
#include "elbowroom/follow/steer.hpp"

namespace er {

/// Against time: the tool's speed as commanded and as it was; the largest shares of a velocity and
/// of an acceleration limit that any joint takes; and the clearance, with `asked` (m) dashed. PNG
/// or SVG by the ending of `path`. Throws InputError as plot_motion does.
void plot_steered(const std::filesystem::path& path, const CellQuery& query, const Steered& steered,
                  double asked, const PlotOptions& options = {});

}  // namespace er
