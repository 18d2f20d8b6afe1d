#include "elbowroom/follow/follow.hpp"

#include <fmt/format.h>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/follow_plot.hpp"
#include "elbowroom/draw/steer_plot.hpp"
#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/recorded_file.hpp"
#include "elbowroom/files/write_file.hpp"
#include "elbowroom/kinematics/named_frame.hpp"
#include "verb.hpp"

namespace er::cli {
namespace {

struct Own {
  Arguments a;
  std::string path;
  std::string sticks;
  std::string full = "100 mm/s";
  std::string full_turn = "30 deg/s";
  double dead_zone = StickScale{}.dead_zone;
  double stick_rate = 50.0;
  std::string from;
  std::string mode = std::string(name_of(FollowMode::limited));
  std::string speed;
  std::string turn_speed = "90 deg/s";
  std::string off = "0.1 mm";
  double rate = FollowOptions{}.rate;
  bool compare = false;
};

PosePath read_path(const Own& own, const Cell& cell, const Arm& arm) {
  TimedPoses file = load_timed_poses(own.path, arm.rotations());
  const Pose frame = for_option("--in", [&] { return named_frame(cell, arm, own.a.frame); });
  for (Pose& pose : file.poses) pose = frame * pose;
  const auto in_file = [&](auto make) {
    try {
      return make();
    } catch (const InputError& error) {
      throw error.at({own.path, 0, 0});
    }
  };
  if (!own.speed.empty()) {
    const double speed =
        for_option("--speed", [&] { return parse_quantity(own.speed, per(dimension::length, 1)); });
    const double turn = for_option(
        "--turn-speed", [&] { return parse_quantity(own.turn_speed, per(dimension::angle, 1)); });
    file.times = in_file([&] { return times_at_speed(file.poses, speed, turn); });
  } else if (file.times.empty()) {
    throw InputError("the path says no times", "add a column \"t s\", or --speed \"100 mm/s\"",
                     {own.path, 1, 1});
  }
  return in_file([&] { return PosePath(file.times, file.poses); });
}

PathFreedom read_path_freedom(const Arguments& arguments) {
  AtPlace place;
  read_leave(arguments, place);
  return for_option("--leave", [&] { return path_freedom(place); });
}

FollowOptions read_options(const Own& own) {
  FollowOptions options{.rate = own.rate, .clearance = read_clearance(own.a)};
  options.mode = for_option("--mode", [&] { return follow_mode_named(own.mode); });
  options.deviation =
      for_option("--off", [&] { return parse_quantity(own.off, dimension::length); });
  options.free = read_path_freedom(own.a);
  return options;
}

template <class Result>
Answer answer(const Own& own, const CellQuery& query, const Result& result,
              const std::string& more) {
  std::string json = json_of(query, result);
  if (result.no) json = json_joined({json, json_object({{"reason", json_of(*result.no)}})});
  return {result.no ? Exit::no : Exit::yes,
          result.summary(query) + "\n" + result.report(query) + more + wrote(own.a.outs), json};
}

std::string file_name(const std::string& path) {
  return std::filesystem::path(path).filename().string();
}

Answer run_path(const Own& own, const CellQuery& query, const Tool& tool) {
  const Cell& cell = query.cell();
  const Arm& arm = query.arm();
  const FollowOptions options = read_options(own);
  const PosePath path = read_path(own, cell, arm);
  Posture near;
  if (!own.from.empty()) near = read_posture_argument(arm, own.from, "--from");
  const auto starts = path_starts(query, tool, path, near, options);
  if (!starts) return no(starts.reason());

  std::vector<Following> all{follow_from_any(query, tool, path, *starts, options)};
  if (own.compare)
    for (Following& other :
         follow_in_other_modes(query, tool, path, all.front().samples.front().posture, options))
      all.push_back(std::move(other));
  const Following& first = all.front();
  for (const std::string& file : own.a.outs) {
    if (file.ends_with(".csv"))
      write_file(file, steps_csv(first, arm));
    else
      plot_following(file, all,
                     {.title = fmt::format("{} follows {}", arm.name(), file_name(own.path))});
  }
  return answer(own, query, first, all.size() > 1 ? comparison(all) : "");
}

TwistRecord read_sticks(const Own& own) {
  StickScale scale;
  scale.speed =
      for_option("--full", [&] { return parse_quantity(own.full, per(dimension::length, 1)); });
  scale.turn_speed = for_option(
      "--full-turn", [&] { return parse_quantity(own.full_turn, per(dimension::angle, 1)); });
  scale.dead_zone = own.dead_zone;
  return load_twists(own.sticks, scale, own.stick_rate);
}

Answer run_sticks(const Own& own, const CellQuery& query, const Tool& tool) {
  const Arm& arm = query.arm();
  const FollowOptions follow = read_options(own);
  SteerRun run{.deviation = follow.deviation};
  run.in_tool_axes = own.a.frame == "tool";
  if (!run.in_tool_axes)
    run.axes =
        for_option("--in", [&] { return named_frame(query.cell(), arm, own.a.frame); }).rotation;
  const TwistRecord record = read_sticks(own);
  const Posture start = read_posture_argument(arm, own.from.empty() ? "home" : own.from, "--from");
  const Steered steered = steer(query, tool, record, start,
                                {.mode = follow.mode,
                                 .rate = follow.rate,
                                 .clearance = follow.clearance,
                                 .free = follow.free},
                                run);
  for (const std::string& file : own.a.outs) {
    if (file.ends_with(".csv"))
      write_file(file, steps_csv(steered, arm));
    else
      plot_steered(file, query, steered, follow.clearance,
                   {.title = fmt::format("{} steered by {}", arm.name(), file_name(own.sticks))});
  }
  return answer(own, query, steered, "");
}

Answer run(const Own& own) {
  if (own.path.empty() == own.sticks.empty())
    throw InputError("what is to be followed is --path FILE or --sticks FILE, one of them");
  const Cell cell = read_cell(own.a);
  const Arm& arm = for_option("--arm", [&]() { return std::cref(cell.arm(own.a.arm)); });
  const Tool& tool = for_option("--tool", [&]() { return std::cref(arm.tool(own.a.tool)); });
  check_endings(own.a, {".csv", ".png", ".svg"});
  const CellQuery query(cell, arm.name());
  return own.sticks.empty() ? run_path(own, query, tool) : run_sticks(own, query, tool);
}

}  // namespace

Verb add_follow(VerbParser parser) {
  auto own = std::make_shared<Own>();
  own->a.clearance = "5 mm";
  add_cell(parser, own->a);
  parser.text("--path", own->path,
              "a table of poses of the tool: t s, x mm, y mm, z mm, and roll, pitch, yaw deg "
              "or qw, qx, qy, qz");
  parser.text("--sticks", own->sticks,
              "instead: a table of commands by hand, x, y, z, roll, pitch, yaw: deflections of "
              "-1 to 1 or in %, or velocities in mm/s and deg/s; and t s");
  parser.text("--full", own->full, "with --sticks: the tool's speed at full deflection");
  parser.text("--full-turn", own->full_turn, "the same of turning");
  parser.number("--dead-zone", own->dead_zone, "with --sticks: deflections that count as none");
  parser.number("--stick-rate", own->stick_rate, "with --sticks: rows a second, without t", "Hz");
  parser.goes_with("--full", {"--sticks"})
      .goes_with("--full-turn", {"--sticks"})
      .goes_with("--dead-zone", {"--sticks"})
      .goes_with("--stick-rate", {"--sticks"})
      .not_beside("--sticks", {"--compare", "--speed"});
  parser.text("--speed", own->speed, "pass the poses at this speed, whatever the table's times");
  parser.text("--turn-speed", own->turn_speed, "with --speed: the tool turns no faster");
  parser.goes_with("--turn-speed", {"--speed"});
  parser.text("--in", own->a.frame,
              "the frame of the poses or commands (world); for commands also tool");
  parser.text("--tool", own->a.tool, "which tool (the arm's first)");
  parser.texts(
      "--leave", own->a.freedoms,
      "what the path does not hold, in its own axes: \"x = free\", y, z, turn (about z), tilt "
      "(z any way); may be repeated");
  parser.text(
      "--from", own->from,
      "start near this stance or posture (the best that goes through); steered: there (home)");
  parser.text("--mode", own->mode, "limited, damped, pseudo or plain");
  parser.flag("--compare", own->compare, "the other modes, too, from the same start");
  parser.number("--rate", own->rate, "steps a second", "Hz");
  parser.text("--off", own->off, "how far the tool may stray from the path");
  add_clearance(parser, own->a);
  add_out(parser, own->a, ".csv (every step, SI), .png or .svg (plots)");
  parser.footer(
      "limited keeps every joint limit and the clearance, keeps to the path, and slows down early\n"
      "enough for what comes; the other modes break what they break, and are measured. Steered by\n"
      "hand, the arm only goes where it is proved that it can stop.\n"
      "examples:\n"
      "  elbowroom follow demo/glaze.cell.yaml --path demo/beside_wrist.path.csv --compare\n"
      "  elbowroom follow demo/glaze.cell.yaml --path demo/beside_wrist.path.csv --speed "
      "\"50 mm/s\" --leave \"turn = free\"\n"
      "  elbowroom follow demo/glaze.cell.yaml --sticks demo/by_hand.sticks.csv --full \"200 "
      "mm/s\"");
  return {parser, [own] { return run(*own); }};
}

}  // namespace er::cli
