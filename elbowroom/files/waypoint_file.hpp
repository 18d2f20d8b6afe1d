// Waypoint files: lists of places for an arm to go through, with times, velocities and
// accelerations where they are to be given. docs/target-and-routine-files.md has the format.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/model/cell.hpp"
#include "elbowroom/route/asked_waypoints.hpp"

namespace er {

struct WaypointList {
  std::string arm = {};
  std::vector<AskedWaypoint> waypoints = {};
};

/// Reads a waypoint file against a cell. Throws InputError with file, line and column.
WaypointList load_waypoints(const std::filesystem::path& path, const Cell& cell);

}  // namespace er
