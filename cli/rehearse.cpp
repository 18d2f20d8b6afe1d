#include "elbowroom/rehearse/rehearse.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/arms_plot.hpp"
#include "elbowroom/draw/drawing_plot.hpp"
#include "elbowroom/draw/gltf.hpp"
#include "elbowroom/draw/profiles_plot.hpp"
#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/routine_file.hpp"
#include "elbowroom/files/target_file.hpp"
#include "elbowroom/files/write_file.hpp"
#include "elbowroom/model/find_named.hpp"
#include "elbowroom/routine/drawing.hpp"
#include "picture.hpp"
#include "verb.hpp"

namespace er::cli {
namespace {

struct Own {
  Arguments a;
  std::string routine;
  std::string motion;
  std::string drawn;
  double rate = RehearseOptions{}.rate;
  bool profiles = false;
  bool explain = false;
  bool all = false;
  int step = 0;
  std::vector<std::string> pieces;
  std::vector<std::string> unsure;
  std::vector<std::string> signals;
};

// Where pieces are found, and how well that is known.
std::vector<PieceInput> read_pieces(const Own& own, const Cell& cell) {
  std::vector<PieceInput> out;
  const auto input = [&](const std::string& name, const std::string& option) -> PieceInput& {
    for (PieceInput& one : out)
      if (one.piece == name) return one;
    for_option(option, [&] { return find_named(cell.pieces(), "piece", name).mass; });
    return out.emplace_back(PieceInput{.piece = name});
  };
  for (const std::string& text : own.pieces) {
    const std::string option = "--piece";
    const auto [name, value_text] = named_value(text, option, "cup_1 = 105 mm, 512 mm, 560 mm");
    const std::vector<std::string> values = split_at_commas(value_text);
    if (values.size() != 3 && values.size() != 6)
      throw InputError(
          fmt::format("{}: expected x, y, z and perhaps roll, pitch, yaw, found {} "
                      "values",
                      option, values.size()));
    const auto value = [&, &all = values](std::size_t i, Dimension dimension) {
      return for_option(option, [&] { return parse_quantity(all[i], dimension); });
    };
    Pose at = find_named(cell.pieces(), "piece", input(name, option).piece).at;
    for (std::size_t k = 0; k < 3; ++k)
      at.position[static_cast<Eigen::Index>(k)] = value(k, dimension::length);
    if (values.size() == 6)
      at.rotation = rotation_from_rpy(value(3, dimension::angle), value(4, dimension::angle),
                                      value(5, dimension::angle));
    input(name, option).at = at;
  }
  for (const std::string& text : own.unsure) {
    const std::string option = "--unsure";
    const auto [name, value_text] = named_value(text, option, "cup_1 = 2 mm, 3 deg");
    const std::vector<std::string> values = split_at_commas(value_text);
    if (values.empty() || values.size() > 2)
      throw InputError(fmt::format("{}: expected a length and perhaps an angle", option));
    PieceInput& one = input(name, option);
    one.within = for_option(
        option, [&, &all = values] { return parse_quantity(all[0], dimension::length); });
    if (values.size() == 2)
      one.turned_within = for_option(
          option, [&, &all = values] { return parse_quantity(all[1], dimension::angle); });
  }
  return out;
}

// The cell with its pieces where they are found.
Cell found(Cell cell, const std::vector<PieceInput>& pieces) {
  for (const PieceInput& one : pieces)
    if (one.at) cell = cell.with_body_at(one.piece, *one.at);
  return cell;
}

// The routine under every profile.
Answer run_profiles(const Own& own, const CellQuery& query, const Routine& routine) {
  check_endings(own.a, {".png", ".svg"});
  const auto runs = compare_profiles(query, routine, {.progress = progress_bar(), .stop = {}});
  if (!runs) return no(runs.reason());
  const Cell moving = routine.moving_cell(query.cell());
  const Arm& arm = routine.moving_arm(moving);
  for (const std::string& file : own.a.outs)
    plot_profiles(file, *runs, arm,
                  {.title = fmt::format("{}, {}", fmt::join(routine.arms(), " and "),
                                        routine.name.empty() ? "routine" : routine.name)});
  const bool passed =
      std::all_of(runs->begin(), runs->end(), [](const ProfileRun& run) { return run.passed; });
  return {passed ? Exit::yes : Exit::no,
          (passed ? "yes: " : "no: not all pass; ") + comparison_text(*runs) + wrote(own.a.outs),
          json_of(arm, *runs)};
}

// What was drawn against what was asked for: a line for each drawing, and the same for programs.
struct Drawn {
  std::string text;
  std::vector<std::string> json;
};
Drawn drawn(const PlannedRoutine& planned) {
  Drawn out;
  for (std::size_t i = 0; i < planned.routine.drawings.size(); ++i) {
    const DrawnError error = drawn_error(planned, static_cast<int>(i));
    if (error.length == 0.0) continue;  // its steps are off, or not looked at
    const std::string& name = planned.routine.drawings[i].name;
    out.text += fmt::format(
        "  drawn, '{}': {:.1f} mm, at most {:.3f} mm off the strokes, {:.3f} mm in the mean; no "
        "point "
        "of them further than {:.3f} mm from what was drawn\n",
        name, to_mm(error.length), to_mm(error.worst), to_mm(error.mean), to_mm(error.left_out));
    out.json.push_back(json_object({{"name", json_of(name)},
                                    {"length", json_of(error.length)},
                                    {"worst", json_of(error.worst)},
                                    {"mean", json_of(error.mean)},
                                    {"left_out", json_of(error.left_out)}}));
  }
  return out;
}

void write_files(const Own& own, const Cell& cell, const PlannedRoutine& planned,
                 const Rehearsal& rehearsal) {
  const Cell moving = planned.routine.moving_cell(cell);
  const Arm& arm = planned.routine.moving_arm(moving);
  for (const std::string& file : own.a.outs) {
    if (file.ends_with(".csv"))
      write_file(file, rehearsal_csv(rehearsal));
    else if (file.ends_with(".glb") || file.ends_with(".gltf"))
      write_gltf(file, moving, arm, timed_postures(planned.whole()),
                 [&](const Body& piece, double time) { return planned.place_of(piece, time); });
    else if (planned.routine.others.empty())
      plot_motion(file, planned.whole(), arm, plot_of(planned));
    else
      plot_arms(file, cell, planned, plot_of(planned));
  }
  if (!own.motion.empty()) write_file(own.motion, motion_csv(planned.whole(), arm, own.rate));
}

std::string uncertainty_text(const PlannedRoutine& planned) {
  if (planned.uncertainty == 0.0) return {};
  return fmt::format(
      "  every clearance is {} more than the steps ask for: it holds wherever the "
      "pieces are within what is not known of them\n",
      text_length(planned.uncertainty));
}

// What signals are said to say.
std::vector<SignalValue> read_signals(const Own& own) {
  std::vector<SignalValue> out;
  for (const std::string& text : own.signals) {
    const auto [name, value] = named_value(text, "--signal", "wet = yes");
    if (value != "yes" && value != "no")
      throw InputError(fmt::format("--signal: '{}' is neither yes nor no", value));
    out.push_back({name, value == "yes"});
  }
  return out;
}

// The verdict on all paths of a routine that hangs on signals, and a line for each.
std::string paths_text(const std::vector<PlannedPath>& paths,
                       const std::vector<Rehearsal>& rehearsals) {
  Table table({"<path", "steps", "duration", "clear mm", "<nearest pair", "<verdict"});
  double longest = 0.0;
  std::string first_no;
  for (std::size_t i = 0; i < paths.size(); ++i) {
    const Rehearsal& one = rehearsals[i];
    const RehearsedStep* nearest = one.nearest();
    longest = std::max(longest, one.duration);
    if (!one.passed() && first_no.empty())
      first_no = fmt::format("no: where {}: {}\n", paths[i].text(), one.summary().substr(4));
    std::string verdict = one.passed() ? "yes" : "NO";
    if (one.passed() && !paths[i].instead.empty()) verdict += ", by an on_no";
    table.row({paths[i].text(), std::to_string(one.steps.size()), text_time(one.duration),
               nearest == nullptr ? "-" : fmt::format("{:.1f}", to_mm(nearest->clearance)),
               nearest == nullptr ? "" : nearest->nearest, verdict});
  }
  const std::string yes =
      fmt::format("yes: on each of {} paths, in {} at most\n", paths.size(), text_time(longest));
  return (first_no.empty() ? yes : first_no) + table.text();
}

std::string paths_json(const std::vector<PlannedPath>& paths,
                       const std::vector<Rehearsal>& rehearsals) {
  std::vector<std::string> out;
  for (std::size_t i = 0; i < rehearsals.size(); ++i) {
    std::vector<std::pair<std::string, std::string>> signals;
    for (const SignalValue& value : paths[i].signals)
      signals.emplace_back(value.signal, value.is ? "true" : "false");
    out.push_back(json_object({{"signals", json_object(signals)},
                               {"passed", rehearsals[i].passed() ? "true" : "false"},
                               {"steps", json_of(static_cast<int>(rehearsals[i].steps.size()))},
                               {"duration", json_of(rehearsals[i].duration)}}));
  }
  return fmt::format("[{}]", fmt::join(out, ","));
}

std::string instead_text(const PlannedRoutine& planned) {
  std::string out;
  for (const Instead& one : planned.instead)
    out += fmt::format("  instead of '{}', what its on_no says: {}\n", one.of, one.reason);
  return out;
}

Answer run(const Own& own) {
  check_endings(own.a, {".csv", ".png", ".svg", ".glb", ".gltf"});
  if (!own.drawn.empty()) check_endings("--drawn", {own.drawn}, {".png", ".svg"});
  const Cell cell = read_cell(own.a);
  const Routine routine = load_routine(own.routine, cell);
  const CellQuery query(cell, routine.arm);
  if (own.profiles) return run_profiles(own, query, routine);
  const std::vector<PieceInput> pieces = read_pieces(own, cell);
  auto plan =
      plan_routine(query, routine, {.pieces = pieces}, {.progress = progress_bar(), .stop = {}});
  if (!plan) return no(plan.reason());
  const std::vector<SignalValue> signals = read_signals(own);
  const std::size_t path = for_option("--signal", [&] { return plan->path_where(signals); });
  PlannedRoutine planned = plan->along(path);
  Cell here = found(cell, pieces);
  const Supervision shown{.progress = progress_bar(), .stop = {}};
  std::vector<Rehearsal> every;  // on several paths
  std::string on_paths;
  if (planned.paths.size() > 1) {
    every = rehearse_paths(here, planned, {.rate = own.rate}, shown);
    on_paths =
        paths_text(planned.paths, every) + fmt::format("where {}:\n", planned.paths[path].text());
  }
  if (own.step != 0) {
    const int index = for_option("--step", [&] { return planned.index_of(own.step); });
    planned = planned.part(index + 1, index + 1);
    here = *planned.steps.front().cell;
  }
  const Rehearsal rehearsal = every.empty() || own.step != 0
                                  ? rehearse(here, planned, {.rate = own.rate}, shown)
                                  : every[path];
  write_files(own, here, planned, rehearsal);
  std::vector<std::string> files = own.a.outs;
  if (!own.motion.empty()) files.push_back(own.motion);
  const Drawn lines = drawn(planned);
  if (!own.drawn.empty()) {
    if (lines.json.empty())
      throw InputError("--drawn: no step of this routine draws", "leave it out");
    plot_drawings(own.drawn, planned, plot_of(planned));
    files.push_back(own.drawn);
  }
  const bool passed =
      rehearsal.passed() &&
      std::all_of(every.begin(), every.end(), [](const Rehearsal& one) { return one.passed(); });
  return {passed ? Exit::yes : Exit::no,
          on_paths + rehearsal.summary() + "\n" + rehearsal.report(here, own.all) +
              instead_text(planned) + uncertainty_text(planned) + lines.text +
              (own.explain ? planned.explanation() : std::string{}) + wrote(files),
          json_with(json_with(json_of(here, rehearsal), "drawings",
                              fmt::format("[{}]", fmt::join(lines.json, ","))),
                    "paths", paths_json(planned.paths, every))};
}

}  // namespace

Verb add_rehearse(VerbParser parser) {
  auto own = std::make_shared<Own>();
  parser.text("CELL", own->a.cell, "the cell file");
  parser.text("ROUTINE", own->routine, "the routine file");
  parser.number("--rate", own->rate, "ticks per second", "Hz");
  parser.flag("--profiles", own->profiles,
              "the routine under every profile, compared in a table, and with --out in a picture");
  parser.not_beside("--profiles", {"--rate", "--step", "--piece", "--unsure", "--signal",
                                   "--explain", "--all", "--drawn", "--motion"});
  parser.number("--step", own->step, "only this step, planned with all others, replayed alone");
  parser.texts("--piece", own->pieces,
               "where a piece is found, else as in the cell: \"cup_1 = 105 mm, 512 mm, 560 mm\", "
               "and roll, pitch, yaw");
  parser.texts("--unsure", own->unsure,
               "how well that is known: \"cup_1 = 2 mm\" or \"cup_1 = 2 mm, 3 deg\"; the verdict "
               "holds for all of it");
  parser.texts("--signal", own->signals,
               "which path to show and write, of a routine that hangs on signals: \"wet = yes\"; "
               "all are planned and rehearsed");
  parser.flag("--explain", own->explain,
              "the ways chosen, what the search looked at, and why other ways were refused");
  parser.flag("--all", own->all, "a line for each step, however many there are");
  parser.text("--drawn", own->drawn,
              "draw what the tool draws over what was asked for (.png, .svg)");
  parser.text("--motion", own->motion, "write the whole motion to a .csv (t, q, qd, qdd, SI)");
  add_out(parser, own->a,
          ".csv (the table), .png or .svg (plots of the motion; of several arms, who moves when), "
          ".glb or .gltf (the cell moving)");
  parser.footer(
      "examples:\n"
      "  elbowroom rehearse demo/glaze.cell.yaml demo/glaze.routine.yaml --explain\n"
      "  elbowroom rehearse demo/glaze.cell.yaml demo/ware.routine.yaml --unsure \"cup_1 = 0.5 "
      "mm\" "
      "--out ware.glb\n"
      "  elbowroom rehearse demo/glaze.cell.yaml demo/mark.routine.yaml --drawn mark.png\n"
      "  elbowroom rehearse demo/kiln.cell.yaml demo/kiln.routine.yaml --out two_arms.png\n"
      "  elbowroom rehearse demo/glaze.cell.yaml demo/dip.routine.yaml --out steps.csv "
      "--motion motion.csv");
  return {parser, [own] { return run(*own); }};
}

}  // namespace er::cli
