#include "elbowroom/follow/follow.hpp"

#include <fmt/format.h>

#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/follow_plot.hpp"
#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/recorded_file.hpp"
#include "elbowroom/files/target_reading.hpp"
#include "elbowroom/files/write_file.hpp"
#include "elbowroom/kinematics/named_frame.hpp"
#include "elbowroom/reach/numeric.hpp"
#include "elbowroom/reach/reach.hpp"
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

PathFreedom read_path_freedom(const std::vector<std::string>& words) {
  PathFreedom free;
  for (const std::string& word : words) {
    if (word == "x" || word == "y" || word == "z")
      free.along[static_cast<std::size_t>(word[0] - 'x')] = true;
    else if (word == "turn")
      free.turn = true;
    else if (word == "tilt")
      free.tilt = true;
    else
      for_option("--leave", [&]() -> int {
        const std::vector<std::string> known{"x", "y", "z", "turn", "tilt"};
        throw unknown_name("freedom", word, known);
      });
  }
  return free;
}

// Postures to start from: the one nearest to --from, or all that reach the first pose, best first.
Verdict<std::vector<Posture>> starts_of(const Own& own, const CellQuery& query,
                                        const TrackedTool& tool, const PosePath& path,
                                        double clearance) {
  const Target first = tool.target_at(path.at(0.0));
  const Arm& arm = query.arm();
  if (own.from.empty()) {
    const auto found = reach(query, first, {.clearance = clearance});
    if (!found) return found.reason();
    return found->postures();
  }
  const Posture from = read_posture_argument(arm, own.from, "--from");
  const NumericSolve solve = solve_from(arm, Target(first).within(1e-8, 1e-8), from);
  if (solve.met) return std::vector<Posture>{solve.posture};
  return Reason{
      Cause::out_of_reach,
      fmt::format("no: from {} the tool does not come to the beginning of the path: {} "
                  "and {} are left",
                  own.from, text_length(solve.error.position), text_angle(solve.error.angle))};
}

std::string comparison_of(const std::vector<Following>& all) {
  Table table({"<mode", "time", "off the path", "turned off", "of velocity", "of acceleration",
               "clearance", "<verdict"});
  for (const Following& one : all)
    table.row({std::string(name_of(one.mode)), text_time(one.duration()),
               fmt::format("{:.4f} mm", to_mm(one.worst_off)),
               fmt::format("{:.4f} deg", to_deg(one.worst_off_angle)),
               fmt::format("{:.1f} %", 100.0 * one.velocity.share),
               fmt::format("{:.1f} %", 100.0 * one.acceleration.share),
               text_length(one.clearance.nearest.distance), one.no ? "no" : "yes"});
  std::string out = table.text(2);
  for (const Following& one : all)
    if (one.no) out += fmt::format("  {}: {}\n", name_of(one.mode), one.no->text.substr(4));
  return out;
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
  options.free = read_path_freedom(own.a.freedoms);
  const PosePath path = read_path(own, cell, arm);
  const auto starts =
      starts_of(own, query, TrackedTool(arm, tool, options.free), path, options.clearance);
  if (!starts) return no(starts.reason());

  std::vector<Following> all{follow_from_any(query, tool, path, *starts, options)};
  if (own.compare) {
    const Posture start = all.front().samples.front().posture;
    for (const FollowMode mode :
         {FollowMode::limited, FollowMode::damped, FollowMode::pseudo, FollowMode::plain}) {
      if (mode == options.mode) continue;
      if (mode == FollowMode::plain && arm.dof() != rows_of(options.free)) continue;
      FollowOptions other = options;
      other.mode = mode;
      all.push_back(follow(query, tool, path, start, other));
    }
  }
  const Following& first = all.front();
  for (const std::string& file : own.a.outs) {
    if (file.ends_with(".csv"))
      write_file(file, following_csv(first, arm));
    else
      plot_following(file, arm, all,
                     {.title = fmt::format("{} follows {}", arm.name(),
                                           std::filesystem::path(own.path).filename().string())});
  }
  std::string text = first.summary(query) + "\n" + first.report(query);
  if (all.size() > 1) text += comparison_of(all);
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
  parser.texts("--leave", own->a.freedoms,
               "what the path does not hold, in its own axes: x, y, z, turn (about z), tilt (z any "
               "way); may be repeated");
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
      "\"50 mm/s\" --leave turn");
  return {parser, [own] { return run(*own); }};
}

}  // namespace er::cli
