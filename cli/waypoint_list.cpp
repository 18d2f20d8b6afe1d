#include "waypoint_list.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/files/waypoint_file.hpp"

namespace er::cli {
namespace {

// A stance, or where there is none of that name a target of --targets.
AskedWaypoint named_waypoint(const CellQuery& query, const std::string& name,
                             const Arguments& arguments) {
  const auto& stances = query.arm().stances();
  const bool is_stance = std::any_of(stances.begin(), stances.end(),
                                     [&](const Stance& stance) { return stance.name == name; });
  if (is_stance || arguments.targets.empty())
    return {.name = name,
            .posture = for_option("--through", [&] { return query.arm().stance(name); })};
  return {.name = name, .target = for_option("--through", [&] {
                          return named_targets(query.cell(), arguments, {name}).front();
                        })};
}

}  // namespace

void add_waypoint_list(VerbParser& parser, WaypointArguments& arguments) {
  parser.text("--through", arguments.through,
              "instead of a route: stances, or targets of --targets, with commas between");
  parser.text("--waypoints", arguments.file,
              "instead of a route: a waypoint file, with times, velocities and accelerations where "
              "they are to be given");
  parser.text(
      "--durations", arguments.durations,
      "how long each stretch takes, with commas between: \"2 s, 1.5 s\"; with --polynomial");
}

Verdict<std::vector<AskedWaypoint>> read_waypoint_list(const CellQuery& query,
                                                       const WaypointArguments& list,
                                                       const Arguments& arguments) {
  if (!list.through.empty() && !list.file.empty())
    throw InputError("two lists of waypoints are given, --through and --waypoints",
                     "leave one of them out");
  std::vector<AskedWaypoint> waypoints;
  if (!list.file.empty()) {
    WaypointList read = load_waypoints(list.file, query.cell());
    if (read.arm != query.arm().name())
      throw InputError(fmt::format("--waypoints: '{}' is of arm '{}', the question of '{}'",
                                   list.file, read.arm, query.arm().name()),
                       fmt::format("add --arm {}", read.arm));
    waypoints = std::move(read.waypoints);
  } else {
    for (const std::string& name : split_at_commas(list.through))
      waypoints.push_back(named_waypoint(query, name, arguments));
  }
  if (!list.durations.empty()) {
    const std::vector<std::string> durations = split_at_commas(list.durations);
    if (durations.size() + 1 != waypoints.size())
      throw InputError(
          fmt::format("--durations: found {}, and {} waypoint{} have {} stretches",
                      durations.size(), waypoints.size(), waypoints.size() == 1 ? "" : "s",
                      waypoints.empty() ? 0 : waypoints.size() - 1),
          "give one for each stretch, or none");
    for (std::size_t i = 0; i < durations.size(); ++i)
      waypoints[i + 1].after =
          for_option("--durations", [&] { return parse_quantity(durations[i], dimension::time); });
  }
  return with_postures(query, std::move(waypoints), read_clearance(arguments));
}

}  // namespace er::cli
