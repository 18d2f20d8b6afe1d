#include "elbowroom/route/tuning.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/draw/route_picture.hpp"
#include "elbowroom/draw/tuning_plot.hpp"
#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/route_reading.hpp"
#include "elbowroom/files/write_file.hpp"
#include "route_question.hpp"

namespace er::cli {
namespace {

constexpr std::size_t kMostSettings = 200;

struct Own {
  RouteQuestion question;
  std::vector<std::string> tries;
  int seeds = 20;
  std::string paths;
};

// "searches = [1, 3]" and "improve = [0, 10]": every combination.
std::vector<RouteSetting> grid(const std::vector<std::string>& tries, const RouteOptions& base) {
  const Node map = settings_as_node(tries, "--try", "searches = [1, 3, 10]");
  std::vector<RouteSetting> settings{{"", base}};
  for (const Node::Entry& entry : map.entries) {
    const std::vector<Node> values =
        entry.value.kind == Node::Kind::list ? entry.value.items : std::vector<Node>{entry.value};
    if (values.empty()) throw entry.value.error("an empty list leaves nothing to try");
    std::vector<RouteSetting> next;
    for (const RouteSetting& before : settings)
      for (const Node& value : values) {
        RouteSetting setting = before;
        setting.label +=
            fmt::format("{}{} {}", before.label.empty() ? "" : ", ", entry.key, value.text);
        at_place(value, [&] {
          read_route_option({entry.key, entry.key_place, value}, setting.options);
        });
        next.push_back(std::move(setting));
      }
    settings = std::move(next);
    if (settings.size() > kMostSettings)
      throw InputError(fmt::format("--try: more than {} settings", kMostSettings),
                       "try fewer values at once");
  }
  return settings;
}

// Those of the setting to keep, the cheapest of them foremost.
void draw_paths(const std::string& file, const CellQuery& query, const TunedSetting& kept) {
  std::vector<std::vector<Posture>> others;
  for (const TunedSeed& one : kept.seeds)
    if (&one != kept.best() && !one.waypoints.empty()) others.push_back(one.waypoints);
  write_png(file, render_paths(query, kept.best()->waypoints, others));
}

Answer run(const Own& own) {
  const RouteQuestion& question = own.question;
  check_endings(question.a, {".csv", ".png", ".svg"});
  if (!own.paths.empty()) check_endings("--paths", {own.paths}, {".png"});
  if (!question.roadmap.empty()) throw InputError("--roadmap: settings are compared without one");
  if (own.seeds < 1) throw InputError("--seeds: at least one is needed");
  std::vector<std::string> tries = own.tries;
  if (tries.empty()) tries = {"searches = [1, 3, 10]", "improve = [0, 30]"};
  const Cell cell = read_cell(question.a);
  const CellQuery query = for_option("--arm", [&] { return CellQuery(cell, question.a.arm); });
  const std::vector<RouteSetting> settings = grid(tries, route_options(query, question));
  double clearance = 0.0;
  for (const RouteSetting& one : settings) clearance = std::max(clearance, one.options.clearance);
  const auto ready = make_ready(query, read_asked_route(query, question), clearance);
  if (!ready) return no(ready.reason());
  const Tuning tuning =
      tune_route(*ready, settings, own.seeds, {.progress = progress_bar(), .stop = {}});
  const TunedSetting& kept = tuning.settings[tuning.keep];
  for (const std::string& file : question.a.outs) {
    if (file.ends_with(".csv"))
      write_file(file, tuning_csv(tuning));
    else
      plot_tuning(file, tuning,
                  {.title = fmt::format("{}: {} settings, {} seeds each", query.arm().name(),
                                        settings.size(), own.seeds)});
  }
  std::vector<std::string> written = question.a.outs;
  if (!own.paths.empty() && kept.found() > 0) {
    draw_paths(own.paths, ready->query, kept);
    written.push_back(own.paths);
  }
  return {kept.found() > 0 ? Exit::yes : Exit::no,
          tuning.summary() + "\n" + tuning.report(query.arm()) + wrote(written),
          json_of(query.arm(), tuning)};
}

}  // namespace

Verb add_tune(VerbParser parser) {
  auto own = std::make_shared<Own>();
  add_route_question(parser, own->question);
  parser.texts("--try", own->tries,
               "values to try of one setting, such as \"searches = [1, 3, 10]\"; may be repeated: "
               "every combination is tried. Settings: clearance, searches, improve, shortcuts, "
               "worthwhile, tries, tool, swing, near, near_within, bends");
  parser.number("--seeds", own->seeds, "random seeds that each setting is asked with");
  parser.text("--paths", own->paths,
              "write a picture (.png) of the tool's path of every seed under the setting to keep");
  add_out(parser, own->question.a, ".csv (a row for each seed), .png or .svg (a chart)");
  parser.footer(
      "Kept is, of the settings that find a route with most seeds, and of these that keep the most "
      "clearance, the one that takes the least work and is within 5 % of the cheapest.\n"
      "examples:\n"
      "  elbowroom tune demo/glaze.cell.yaml --from over_board --to before_kiln\n"
      "  elbowroom tune demo/glaze.cell.yaml --targets demo/kiln.targets.yaml --target lower_5 "
      "--try "
      "\"searches = [1, 3, 10]\" --try \"shortcuts = [0, 400]\" --out tune.png --paths paths.png");
  return {parser, [own] { return run(*own); }};
}

}  // namespace er::cli
