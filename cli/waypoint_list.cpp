#include "waypoint_list.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/files/reading.hpp"
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

// One value of an option for each stretch.
std::vector<std::string> for_stretches(const std::string& option, const std::string& text,
                                       std::size_t waypoints) {
  std::vector<std::string> values = split_at_commas(text);
  if (values.size() + 1 != waypoints)
    throw InputError(
        fmt::format("{}: found {}, and {} waypoint{} have {} stretches", option, values.size(),
                    waypoints, waypoints == 1 ? "" : "s", waypoints == 0 ? 0 : waypoints - 1),
        "give one for each stretch, or none");
  return values;
}

// All waypoints of a name, which may be passed more than once.
std::vector<AskedWaypoint*> waypoints_named(std::vector<AskedWaypoint>& waypoints,
                                            const std::string& name, const std::string& option) {
  std::vector<AskedWaypoint*> found;
  std::vector<std::string> known;
  for (AskedWaypoint& one : waypoints) {
    if (one.name == name) found.push_back(&one);
    known.push_back(one.name);
  }
  return for_option(option, [&] {
    if (found.empty()) throw unknown_name("waypoint", name, known);
    return found;
  });
}

// --speeds, --stops and --waits.
void read_passing(const WaypointArguments& list, std::vector<AskedWaypoint>& waypoints) {
  if (!list.speeds.empty()) {
    const auto speeds = for_stretches("--speeds", list.speeds, waypoints.size());
    for (std::size_t i = 0; i < speeds.size(); ++i)
      waypoints[i + 1].speed =
          for_option("--speeds", [&] { return read_speed(parse_document(speeds[i], "--speeds")); });
  }
  if (!list.stops.empty())
    for (const std::string& name : split_at_commas(list.stops))
      for (AskedWaypoint* one : waypoints_named(waypoints, name, "--stops")) one->stop = true;
  if (list.waits.empty()) return;
  for (const std::string& one : split_at_commas(list.waits)) {
    const auto [name, value] = named_value(one, "--waits", "over_bucket = 0.5 s");
    const double time =
        for_option("--waits", [&, &text = value] { return parse_quantity(text, dimension::time); });
    if (!(time > 0.0)) throw InputError("--waits: a wait is above zero");
    for (AskedWaypoint* at : waypoints_named(waypoints, name, "--waits")) at->wait = time;
  }
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
  parser.text(
      "--speeds", arguments.speeds,
      "of each stretch at most, with commas between: \"100 %, 40 %\" of the velocity limits; "
      "of straight lines");
  parser.text("--stops", arguments.stops,
              "waypoints to stop at where corners are rounded, with commas between");
  parser.text("--waits", arguments.waits,
              "how long to stay at waypoints, with commas between: \"over_bucket = 0.5 s\"; of "
              "straight lines");
  const std::vector<std::string> lists{"--through", "--waypoints"};
  for (const char* option : {"--durations", "--speeds", "--stops", "--waits"})
    parser.goes_with(option, lists);
  parser.goes_with("--targets", {"--through"});
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
    const auto durations = for_stretches("--durations", list.durations, waypoints.size());
    for (std::size_t i = 0; i < durations.size(); ++i)
      waypoints[i + 1].after =
          for_option("--durations", [&] { return parse_quantity(durations[i], dimension::time); });
  }
  read_passing(list, waypoints);
  return with_postures(query, std::move(waypoints), read_clearance(arguments));
}

}  // namespace er::cli
