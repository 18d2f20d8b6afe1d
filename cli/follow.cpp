#include "elbowroom/follow/follow.hpp"

#include <fmt/format.h>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/follow_plot.hpp"
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

Answer run(const Own& own) {
  const Cell cell = read_cell(own.a);
  const Arm& arm = for_option("--arm", [&]() { return std::cref(cell.arm(own.a.arm)); });
  const Tool& tool = for_option("--tool", [&]() { return std::cref(arm.tool(own.a.tool)); });
  check_endings(own.a, {".csv", ".png", ".svg"});
  const CellQuery query(cell, arm.name());
  FollowOptions options{.rate = own.rate, .clearance = read_clearance(own.a)};
  options.mode = for_option("--mode", [&] { return follow_mode_named(own.mode); });
  options.deviation =
      for_option("--off", [&] { return parse_quantity(own.off, dimension::length); });
  options.free = read_path_freedom(own.a);
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
      write_file(file, following_csv(first, arm));
    else
      plot_following(file, all,
                     {.title = fmt::format("{} follows {}", arm.name(),
                                           std::filesystem::path(own.path).filename().string())});
  }
  std::string text = first.summary(query) + "\n" + first.report(query);
  if (all.size() > 1) text += comparison(all);
  std::string json = json_of(query, first);
  if (first.no) json = json_joined({json, json_object({{"reason", json_of(*first.no)}})});
  return {first.no ? Exit::no : Exit::yes, text + wrote(own.a.outs), json};
}

}  // namespace

Verb add_follow(VerbParser parser) {
  auto own = std::make_shared<Own>();
  own->a.clearance = "5 mm";
  add_cell(parser, own->a);
  parser.needed_text(
      "--path", own->path,
      "a table of poses of the tool: t s, x mm, y mm, z mm, and roll, pitch, yaw deg "
      "or qw, qx, qy, qz");
  parser.text("--speed", own->speed, "pass the poses at this speed, whatever the table's times");
  parser.text("--turn-speed", own->turn_speed, "with --speed: the tool turns no faster");
  parser.text("--in", own->a.frame, "the frame the poses are given in (world)");
  parser.text("--tool", own->a.tool, "which tool (the arm's first)");
  parser.texts(
      "--leave", own->a.freedoms,
      "what the path does not hold, in its own axes: \"x = free\", y, z, turn (about z), tilt "
      "(z any way); may be repeated");
  parser.text("--from", own->from,
              "start near this stance or posture (the best that goes through)");
  parser.text("--mode", own->mode, "limited, damped, pseudo or plain");
  parser.flag("--compare", own->compare, "the other modes, too, from the same start");
  parser.number("--rate", own->rate, "steps a second");
  parser.text("--off", own->off, "how far the tool may stray from the path");
  add_clearance(parser, own->a);
  add_out(parser, own->a, ".csv (every step, SI), .png or .svg (plots)");
  parser.footer(
      "limited keeps every joint limit and the clearance, keeps to the path, and slows down early\n"
      "enough for what comes; the other modes break what they break, and are measured.\n"
      "examples:\n"
      "  elbowroom follow demo/glaze.cell.yaml --path demo/beside_wrist.path.csv --compare\n"
      "  elbowroom follow demo/glaze.cell.yaml --path demo/beside_wrist.path.csv --speed "
      "\"50 mm/s\" --leave \"turn = free\"");
  return {parser, [own] { return run(*own); }};
}

}  // namespace er::cli
