#include "elbowroom/rehearse/rehearse.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/profiles_plot.hpp"
#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/target_file.hpp"
#include "elbowroom/files/write_file.hpp"
#include "picture.hpp"
#include "verb.hpp"

namespace er::cli {
namespace {

struct Own {
  Arguments a;
  std::string routine;
  std::string motion;
  double rate = RehearseOptions{}.rate;
  bool profiles = false;
};

// The routine under every profile.
Answer run_profiles(const Own& own, const CellQuery& query, const Routine& routine) {
  check_endings(own.a, {".png", ".svg"});
  if (!own.motion.empty())
    throw InputError("--motion: there are as many motions as profiles", "leave out --profiles");
  const auto runs = compare_profiles(query, routine, {.progress = progress_bar(), .stop = {}});
  if (!runs) return no(runs.reason());
  for (const std::string& file : own.a.outs)
    plot_profiles(file, *runs, query.arm(),
                  {.title = fmt::format("{}, {}", routine.arm,
                                        routine.name.empty() ? "routine" : routine.name)});
  const bool passed =
      std::all_of(runs->begin(), runs->end(), [](const ProfileRun& run) { return run.passed; });
  return {passed ? Exit::yes : Exit::no,
          (passed ? "yes: " : "no: not all pass; ") + comparison_text(*runs) + wrote(own.a.outs),
          json_of(query.arm(), *runs)};
}

Answer run(const Own& own) {
  check_endings(own.a, {".csv", ".png", ".svg"});
  const Cell cell = read_cell(own.a);
  const Routine routine = load_routine(own.routine, cell);
  const CellQuery query(cell, routine.arm);
  if (own.profiles) return run_profiles(own, query, routine);
  const auto planned = plan_routine(query, routine, {.progress = progress_bar(), .stop = {}});
  if (!planned) return no(planned.reason());
  const Rehearsal rehearsal =
      rehearse(cell, *planned, {.rate = own.rate}, {.progress = progress_bar(), .stop = {}});
  const Arm& arm = query.arm();
  std::vector<std::string> files = own.a.outs;
  for (const std::string& file : own.a.outs) {
    if (file.ends_with(".csv"))
      write_file(file, rehearsal_csv(rehearsal));
    else
      plot_motion(file, planned->whole(), arm, plot_of(*planned));
  }
  if (!own.motion.empty()) {
    write_file(own.motion, motion_csv(planned->whole(), arm, own.rate));
    files.push_back(own.motion);
  }
  return {rehearsal.passed() ? Exit::yes : Exit::no,
          rehearsal.summary() + "\n" + rehearsal.report(arm) + wrote(files),
          json_of(arm, rehearsal)};
}

}  // namespace

Verb add_rehearse(VerbParser parser) {
  auto own = std::make_shared<Own>();
  parser.text("CELL", own->a.cell, "the cell file");
  parser.text("ROUTINE", own->routine, "the routine file");
  parser.number("--rate", own->rate, "ticks per second");
  parser.flag("--profiles", own->profiles,
              "the routine under every profile, compared in a table, and with --out in a picture");
  parser.text("--motion", own->motion, "write the whole motion to a .csv (t, q, qd, qdd, SI)");
  add_out(parser, own->a, ".csv (the table), .png or .svg (plots of the motion)");
  parser.footer(
      "examples:\n"
      "  elbowroom rehearse demo/glaze.cell.yaml demo/dip.routine.yaml\n"
      "  elbowroom rehearse demo/glaze.cell.yaml demo/dip.routine.yaml --out steps.csv "
      "--motion motion.csv");
  return {parser, [own] { return run(*own); }};
}

}  // namespace er::cli
