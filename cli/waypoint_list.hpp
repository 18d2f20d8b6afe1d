// Lists of waypoints on the command line, which `pace` puts time on.
#pragma once

#include "elbowroom/route/asked_waypoints.hpp"
#include "verb.hpp"

namespace er::cli {

struct WaypointArguments {
  std::string through;    ///< names with commas between
  std::string file;       ///< or a waypoint file
  std::string durations;  ///< of the stretches, with commas between
  std::string speeds;     ///< the same
  std::string stops;      ///< names with commas between
  std::string waits;      ///< "over_bucket = 0.5 s" with commas between

  [[nodiscard]] bool given() const { return !through.empty() || !file.empty(); }
};

/// --through, --waypoints, --durations, --speeds, --stops and --waits.
void add_waypoint_list(VerbParser& parser, WaypointArguments& arguments);

/// The waypoints with their postures, and their names.
Verdict<std::vector<AskedWaypoint>> read_waypoint_list(const CellQuery& query,
                                                       const WaypointArguments& list,
                                                       const Arguments& arguments);

}  // namespace er::cli
