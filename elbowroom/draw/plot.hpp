// Plots of motions, drawn by gnuplot.
#pragma once

#include <filesystem>
#include <string>

#include "elbowroom/pace/motion.hpp"

namespace er {

struct PlotOptions {
  int width = 1280;
  int height = 800;
  std::string title = {};
};

/// Position, velocity and acceleration of every joint against time, one panel each, with the limits
/// of the joint that comes nearest to its own drawn dashed. PNG or SVG by the ending of `path`.
/// Throws InputError for another ending, or when gnuplot is missing or fails.
void plot_motion(const std::filesystem::path& path, const Motion& motion, const Arm& arm,
                 const PlotOptions& options = {});

}  // namespace er
