// The same routine under several profiles, as a picture.
#pragma once

#include <filesystem>
#include <vector>

#include "elbowroom/draw/plot.hpp"
#include "elbowroom/rehearse/compare_profiles.hpp"

namespace er {

/// Velocities to the left and accelerations to the right, as shares of their limits; a row for each
/// profile, all with the same time axis. PNG or SVG by the ending of `path`. Throws InputError as
/// plot_motion does.
void plot_profiles(const std::filesystem::path& path, const std::vector<ProfileRun>& runs,
                   const Arm& arm, const PlotOptions& options = {});

}  // namespace er
