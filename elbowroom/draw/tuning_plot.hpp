// A chart of settings compared.
#pragma once

#include "elbowroom/draw/plot.hpp"
#include "elbowroom/route/tuning.hpp"

namespace er {

/// A row for each setting: how long it takes (each seed a point, the middle half a bar, the median
/// a line), joint travel before and after tightening, and how many seeds found a route; the one to
/// keep in another colour. PNG or SVG by the ending of `path`. Throws InputError as all plots do.
void plot_tuning(const std::filesystem::path& path, const Tuning& tuning,
                 const PlotOptions& options = {});

}  // namespace er
