// Plots of motions, drawn by gnuplot.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/pace/motion.hpp"

namespace er {

struct PlotOptions {
  int width = 1280;
  int height = 800;
  std::string title = {};
  /// Times (s) at which steps end; marked by thin lines.
  std::vector<double> boundaries = {};
};

/// Nine panels: position, velocity and acceleration of every joint, with limits dashed where they
/// are near; jerk, what share of its limits each joint uses, speed of the first tool's tip; and the
/// way of that tip from three sides. PNG or SVG by the ending of `path`. Throws InputError for
/// another ending, or when gnuplot is missing or fails.
void plot_motion(const std::filesystem::path& path, const Motion& motion, const Arm& arm,
                 const PlotOptions& options = {});

}  // namespace er
