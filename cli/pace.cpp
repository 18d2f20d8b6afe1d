#include "elbowroom/pace/pace.hpp"

#include <fmt/format.h>

#include <optional>

#include "clearances.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/curve_sweep.hpp"
#include "elbowroom/collision/zone_speed.hpp"
#include "elbowroom/draw/gltf.hpp"
#include "elbowroom/draw/plot.hpp"
#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/motion_file.hpp"
#include "elbowroom/files/route_reading.hpp"
#include "elbowroom/files/write_file.hpp"
#include "elbowroom/pace/compare_moves.hpp"
#include "elbowroom/pace/polynomial_motion.hpp"
#include "elbowroom/route/turn_notes.hpp"
#include "route_question.hpp"
#include "tool_move.hpp"
#include "waypoint_list.hpp"

namespace er::cli {
namespace {

struct Own {
  RouteQuestion route;
  WaypointArguments list;
  ToolMoveArguments tool;
  std::string profile;
  std::string polynomial;
  std::string on_the_way = "smooth";
  std::string ends = "clamped";
  bool coefficients = false;
  bool unchecked = false;
  bool keep_jerk = false;
  std::string round;
  std::string tool_speed;
  std::string tool_acceleration;
  double speed = 100.0;
  double rate = 1000.0;
  std::vector<std::string> clearances;
};

constexpr const char* kUnchecked = "  unchecked: it may collide\n";

// Whether a motion through a list of waypoints keeps clear of everything: a no, or what to say.
struct Collisions {
  std::optional<Reason> reason;
  std::string text;
};

Collisions collisions_of(const Own& own, const CellQuery& query, const Motion& motion) {
  if (own.unchecked) return {std::nullopt, kUnchecked};
  const double clearance = read_clearance(own.route.a);
  SweepMemory memory(query);
  const CurveSweep sweep = sweep_curve(query, motion, clearance, memory);
  if (sweep.free) {
    // Lines from rest to rest are slowed for zones; other motions may be too fast for them.
    if (const ZoneSpeed fastest = fastest_in_zones(query, motion); fastest.share > 1.0 + 1e-6)
      return {Reason{Cause::too_fast,
                     fmt::format("no: {:.1f} % of a zone's speed cap: {}", 100.0 * fastest.share,
                                 describe(query, fastest)),
                     {{"share", fastest.share, ""}}},
              ""};
    return {std::nullopt,
            fmt::format("  proved to keep {:.1f} mm over the whole motion\n", to_mm(clearance))};
  }
  Reason reason{Cause::in_collision,
                "no: " + describe(query, sweep, clearance),
                {{"time", sweep.at, "s"}, {"distance", sweep.blocking.distance, "m"}}};
  reason.details.emplace_back("--from and --to find a way round; --unchecked only puts time on it");
  return {reason, ""};
}

// Writes a motion to the files that were asked for, and how near it comes to things.
Clearances write_motion(const Own& own, const Cell& cell, const CellQuery& query,
                        const Motion& motion, const std::string& kind) {
  const Arm& arm = query.arm();
  for (const std::string& file : own.route.a.outs) {
    if (file.ends_with(".csv"))
      write_file(file, motion_csv(motion, arm, own.rate));
    else if (file.ends_with(".json"))
      write_file(file, motion_json({.from = origin_of(ELBOWROOM_VERSION, query),
                                    .law = kind,
                                    .clearance = own.unchecked ? 0.0 : read_clearance(own.route.a),
                                    .contacts = contacts_beyond(cell, query),
                                    .motion = motion}));
    else if (file.ends_with(".glb") || file.ends_with(".gltf"))
      write_gltf(file, query.cell(), arm, timed_postures(motion));
    else
      plot_motion(file, motion, arm,
                  {.title = fmt::format("{}: {} motion, {}", arm.name(), kind,
                                        text_time(motion.duration()))});
  }
  const std::string title = fmt::format("{}: clearances of a {} motion", arm.name(), kind);
  return write_clearances(own.clearances, query,
                          {.curve = motion,
                           .title = title,
                           .asked = own.list.given() ? 0.0 : read_clearance(own.route.a)});
}

Answer polynomial_answer(const Own& own, const Cell& cell, const CellQuery& query,
                         const std::vector<AskedWaypoint>& list) {
  const Arm& arm = query.arm();
  for (const AskedWaypoint& one : list)
    if (one.speed || one.stop || one.wait > 0.0)
      throw InputError(
          fmt::format("waypoint '{}' has a speed, a stop or a wait, which are of straight "
                      "lines",
                      one.name),
          "give velocity: 0 to stop, after: 2 s to go slower; or leave --polynomial out");
  std::vector<TimedWaypoint> waypoints;
  for (const AskedWaypoint& one : list)
    waypoints.push_back({one.name, one.posture, one.velocity, one.acceleration, one.after});
  const PolynomialOptions options{
      .degree = for_option("--polynomial", [&] { return degree_named(own.polynomial); }),
      .on_the_way = for_option("--on-the-way", [&] { return on_the_way_named(own.on_the_way); }),
      .ends = for_option("--ends", [&] { return ends_named(own.ends); }),
      .speed = own.speed / 100.0};
  const auto paced = polynomial_motion(waypoints, arm, options);
  if (!paced) return no(paced.reason());
  std::string facts = limits_table(paced->motion, arm) + paced->notes(arm);
  if (own.coefficients) facts += coefficient_tables(*paced, arm);
  if (const auto breach = polynomial_breach(*paced, arm)) {
    Answer answer = no(*breach);
    answer.text += facts;
    return answer;
  }
  const Collisions collisions = collisions_of(own, query, paced->motion);
  if (collisions.reason) {
    Answer answer = no(*collisions.reason);
    answer.text += facts;
    return answer;
  }
  const Clearances near = write_motion(own, cell, query, paced->motion, own.polynomial);
  return {Exit::yes,
          paced->summary() + "\n" + facts + collisions.text + wrote(own.route.a.outs) + near.text,
          with_clearances(json_of(arm, *paced), near)};
}

// Of --keep, all but speeds of frames is for routes, which have a choice of way.
void refuse_rules(const CellQuery& query, const RouteQuestion& route, const char* why) {
  if (!kept_rules(query, route).rules.empty())
    throw InputError(fmt::format("{}: but for speeds of frames --keep is for routes", why),
                     "leave that out, or give --from and --to");
}

void check_for_list(const Own& own, const CellQuery& query) {
  const RouteQuestion& route = own.route;
  refuse_rules(query, route, "--through and --waypoints only put time on what they list");
  if (!route.costs.empty() || !route.roadmap.empty() || route.improve > 0)
    throw InputError(
        "--through and --waypoints only put time on what they list: --cost, --improve and "
        "--roadmap "
        "are for routes",
        "leave them out, or give --from and --to");
  if (!route.to.empty() || !route.a.target.empty())
    throw InputError("a list of waypoints and an end are given",
                     "leave out --through and --waypoints, or --to and --target");
  if (!own.polynomial.empty() && !route.keeps.empty())
    throw InputError("--keep: a polynomial takes the time that its waypoints say",
                     "leave one of them out, and audit the motion with --keep");
  if (own.polynomial.empty() && !own.list.durations.empty())
    throw InputError("--durations: only polynomials take as long as they are told",
                     "add --polynomial cubic or quintic");
}

// Straight lines only know where and how fast at most.
void refuse_derivatives(const std::vector<AskedWaypoint>& list) {
  for (const AskedWaypoint& one : list)
    if (one.velocity || one.acceleration || one.after)
      throw InputError(fmt::format("waypoint '{}' says when or how fast, which straight lines from "
                                   "rest to rest cannot keep",
                                   one.name),
                       "add --polynomial cubic or quintic");
}

// Laws of motion that exclude each other.
void check_laws(const Own& own, const CellQuery& query) {
  const bool polynomial = !own.polynomial.empty();
  if (polynomial && !own.profile.empty())
    throw InputError("two laws of motion are given, --profile and --polynomial",
                     "leave one of them out");
  if (own.coefficients && !polynomial)
    throw InputError("--coefficients: they are of polynomials",
                     "add --polynomial cubic or quintic");
  if (polynomial && !own.list.given())
    throw InputError(
        "--polynomial: it leads through waypoints, and strays from the straight lines "
        "that a route is proved along",
        "give --through or --waypoints");
  if (polynomial && !(own.round.empty() && own.tool_speed.empty() && own.tool_acceleration.empty()))
    throw InputError("--round, --tool-speed and --tool-acceleration are of straight lines",
                     "take --profile time-optimal");
  if (own.tool.given() && (polynomial || own.list.given() || !own.round.empty()))
    throw InputError("--straight, --arc and --trace are moves of their own",
                     "leave out --through, --waypoints, --polynomial and --round");
  if (!own.tool.given() && (own.tool.steady || own.tool.compare))
    throw InputError("--steady and --compare are of tool moves",
                     "add --straight, --arc or --trace");
  if (!own.round.empty() && !kept_rules(query, own.route).rules.empty())
    throw InputError("--round: round corners leave the lines that --keep is proved along",
                     "leave one of them out");
}

double above_zero(const std::string& option, const std::string& text, Dimension dimension) {
  const double value = for_option(option, [&] { return parse_quantity(text, dimension); });
  if (!(value > 0.0)) throw InputError(option + ": a limit is above zero");
  return value;
}

PaceOptions pace_options(const Own& own, const CellQuery& query) {
  PaceOptions options;
  if (!own.profile.empty())
    options.profile = for_option("--profile", [&] { return profile_named(own.profile); });
  options.speed = own.speed / 100.0;
  options.clearance = read_clearance(own.route.a);
  options.tool = own.route.a.tool;
  options.keep_jerk = own.keep_jerk;
  options.steady = own.tool.steady;
  options.frame_speeds = kept_rules(query, own.route).speeds;
  if (!own.round.empty())
    options.corners = for_option("--round", [&] { return parse_corner_bounds(own.round); });
  if (!own.tool_speed.empty())
    options.tool_speed = above_zero("--tool-speed", own.tool_speed, per(dimension::length, 1));
  if (!own.tool_acceleration.empty())
    options.tool_acceleration =
        above_zero("--tool-acceleration", own.tool_acceleration, per(dimension::length, 2));
  return options;
}

Answer paced_answer(const Own& own, const Cell& cell, const CellQuery& query,
                    const PacedMotion& paced, const std::string& notes,
                    const MoveComparison* compared = nullptr) {
  const Clearances near = write_motion(own, cell, query, paced.motion, paced.law());
  return {Exit::yes,
          paced.summary() + "\n" + paced.report(query.arm()) + notes + wrote(own.route.a.outs) +
              near.text,
          with_clearances(json_of(query.arm(), paced, compared), near)};
}

// Straight lines through a list.
Answer list_answer(const Own& own, const Cell& cell, const CellQuery& query,
                   const std::vector<AskedWaypoint>& list) {
  refuse_derivatives(list);
  std::vector<Posture> waypoints;
  std::vector<std::string> names;
  PaceOptions options = pace_options(own, query);
  for (const AskedWaypoint& one : list) {
    waypoints.push_back(one.posture);
    names.push_back(one.name);
    options.at.push_back({one.speed.value_or(1.0), one.stop, one.wait});
  }
  const auto paced = pace(waypoints, query, options);
  if (!paced) return no(paced.reason());
  std::string notes;
  for (const std::string& jump : large_jumps(query.arm(), waypoints, names))
    notes += "  a large jump: " + jump + "\n";
  const Collisions collisions = collisions_of(own, query, paced->motion);
  if (!collisions.reason) return paced_answer(own, cell, query, *paced, notes + collisions.text);
  Answer answer = no(*collisions.reason);
  answer.text += paced->report(query.arm()) + notes;
  return answer;
}

Answer tool_answer(const Own& own, const Cell& cell, const CellQuery& query) {
  const RouteQuestion& route = own.route;
  refuse_rules(query, route, "a tool move goes one way");
  if (!route.costs.empty() || !route.roadmap.empty() || route.improve > 0)
    throw InputError("a tool move goes one way: --cost, --improve and --roadmap are for routes",
                     "leave them out");
  const PaceOptions options = pace_options(own, query);
  const auto asked = read_tool_move(query, own.tool, own.route);
  if (!asked) return no(asked.reason());
  const auto paced = pace(asked->curve, asked->query, options);
  if (!paced) return no(paced.reason());
  if (!own.tool.compare) return paced_answer(own, cell, asked->query, *paced, asked->notes);
  const auto compared = compare_moves(asked->curve, paced->motion, asked->query, options);
  if (!compared) return no(compared.reason());
  return paced_answer(
      own, cell, asked->query, *paced,
      asked->notes + "  " + compared->summary() + "\n" + compared->table(query.arm()), &*compared);
}

Answer run(const Own& own) {
  check_endings(own.route.a, {".csv", ".json", ".png", ".svg", ".glb", ".gltf"});
  check_clearances(own.clearances);
  const Cell cell = read_cell(own.route.a);
  const CellQuery query = for_option("--arm", [&] { return CellQuery(cell, own.route.a.arm); });
  check_laws(own, query);
  if (own.list.given()) {
    check_for_list(own, query);
    const auto list = read_waypoint_list(query, own.list, own.route.a);
    if (!list) return no(list.reason());
    return own.polynomial.empty() ? list_answer(own, cell, query, *list)
                                  : polynomial_answer(own, cell, query, *list);
  }
  if (own.unchecked)
    throw InputError("--unchecked: a route is proved before time is put on it",
                     "leave it out, or give --through or --waypoints");
  if (own.tool.given()) return tool_answer(own, cell, query);
  const PaceOptions options = pace_options(own, query);
  const auto route = answer_route_question(query, own.route);
  if (!route) return no(route.reason());
  const auto paced = pace(route->route, route->query, options);
  if (!paced) return no(paced.reason());
  return paced_answer(
      own, cell, route->query, *paced,
      "  route: " + route->route.summary(route->query).substr(5) + "\n" + route->notes);
}

}  // namespace

Verb add_pace(VerbParser parser) {
  auto own = std::make_shared<Own>();
  add_route_question(parser, own->route);
  add_waypoint_list(parser, own->list);
  add_tool_move(parser, own->tool);
  for (const char* list : {"--through", "--waypoints"})
    parser.not_beside(list, {"--from", "--place", "--require"});
  for (const char* option : {"--seed", "--tries", "--searches", "--time"})  // of a search
    parser.not_beside(option, {"--through", "--waypoints", "--straight", "--arc", "--trace"});
  parser.text(
      "--profile", own->profile,
      "of each straight line, from rest to rest: quintic (as without this), cubic, trapezoid "
      "or jerk-limited; or of the whole path: time-optimal");
  parser.flag("--keep-jerk", own->keep_jerk, "with --profile time-optimal: keeps jerk limits, too");
  parser.text("--polynomial", own->polynomial,
              "cubic or quintic: polynomials through a list of waypoints, in place of straight "
              "lines");
  parser.text(
      "--round", own->round,
      "rounds corners, as far as that is proved free; how far the joints may be off, or the "
      "tool, or both: \"5 deg, 20 mm\"; with --profile time-optimal");
  parser.text("--tool-speed", own->tool_speed,
              "of the tool at most; of tool moves, and with --profile time-optimal");
  parser.text("--tool-acceleration", own->tool_acceleration,
              "of the tool at most; of tool moves, and with --profile time-optimal");
  parser.goes_with("--tool", {"--tool-speed", "--tool-acceleration", "--round"});
  parser.flag("--unchecked", own->unchecked,
              "puts time on a list of waypoints even if the motion collides");
  parser.text(
      "--on-the-way", own->on_the_way,
      "what polynomials do at waypoints that say nothing of their velocity: smooth or stop");
  parser.text("--ends", own->ends, "of polynomials: clamped (at rest), natural or periodic");
  parser.goes_with("--on-the-way", {"--polynomial"}).goes_with("--ends", {"--polynomial"});
  parser.flag("--coefficients", own->coefficients,
              "shows how polynomials are worked out: boundary values, linear equations, "
              "coefficients, residuals");
  parser.number("--speed", own->speed, "percent of the velocity limits to use", "%");
  parser.number("--rate", own->rate, "rows per second in a .csv", "Hz");
  add_out(parser, own->route.a,
          ".csv (t, q, qd, qdd of every joint, SI), .json (the motion itself, exactly), .png or "
          ".svg (plots), .glb or .gltf (the cell "
          "with the arm moving)");
  add_clearances(parser, own->clearances);
  parser.footer(
      "examples:\n"
      "  elbowroom pace demo/glaze.cell.yaml --from home --to before_kiln --profile time-optimal "
      "--round \"5 deg\" --out motion.csv\n"
      "  elbowroom pace demo/sedge.cell.yaml --through \"home, over_tile\" --polynomial cubic "
      "--durations \"2 s\" --coefficients\n"
      "  elbowroom pace demo/glaze.cell.yaml --from before_kiln --straight --targets "
      "demo/kiln.targets.yaml --target upper_1 --tool-speed \"200 mm/s\" --compare");
  return {parser, [own] { return run(*own); }};
}

}  // namespace er::cli
