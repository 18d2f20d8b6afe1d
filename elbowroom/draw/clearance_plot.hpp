// Plots of how near anything comes to an arm, along a motion.
#pragma once

#include <filesystem>
#include <string>

#include "elbowroom/collision/clearance_profile.hpp"
#include "elbowroom/draw/plot.hpp"

namespace er {

struct ClearancePlot {
  PlotOptions plot = {};
  std::string along = "time (s)";  ///< what the curve's parameter is
  double asked = 0.0;              ///< m: drawn dashed, where above zero
};

/// The clearance of each link against the curve's parameter, those that anything comes nearest to
/// first, eight at most; the least of all marked with its pair. PNG or SVG by the ending of `path`.
/// Throws InputError for another ending, or when gnuplot is missing or fails.
void plot_clearances(const std::filesystem::path& path, const CellQuery& query,
                     const ClearanceProfile& profile, const ClearancePlot& options = {});

}  // namespace er
