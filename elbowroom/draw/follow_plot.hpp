// A plot of a path followed, one way or several beside each other.
#pragma once

#include <vector>

#include "elbowroom/draw/plot.hpp"
#include "elbowroom/follow/following.hpp"

namespace er {

/// Against time, a line for each: how far off the path the tool is, and the largest shares of a
/// velocity and of an acceleration limit that any joint takes; the limits dashed. PNG or SVG by the
/// ending of `path`. Throws InputError as plot_motion does.
void plot_following(const std::filesystem::path& path, const std::vector<Following>& all,
                    const PlotOptions& options = {});

}  // namespace er
