// The full example on the shipped cell, step by step, telling what it does.
#include <fmt/format.h>

#include <chrono>
#include <filesystem>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/gltf.hpp"
#include "elbowroom/draw/plot.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/routine_file.hpp"
#include "elbowroom/files/target_file.hpp"
#include "elbowroom/files/write_file.hpp"
#include "elbowroom/rehearse/rehearse.hpp"
#include "elbowroom/survey/survey.hpp"
#include "picture.hpp"
#include "verb.hpp"

namespace er::cli {
namespace {

namespace fs = std::filesystem;

struct Own {
  std::string data;
  std::string out = "elbowroom-demo";
};

std::string demo_folder(const std::string& given) {
  if (!given.empty()) return given;
  for (const char* folder : {ELBOWROOM_DEMO_DIR, ELBOWROOM_INSTALLED_DEMO_DIR})
    if (fs::exists(fs::path(folder) / "glaze.cell.yaml")) return folder;
  throw InputError("the demo's data is not where it was built or installed",
                   "say where it is with --data FOLDER");
}

class Story {
 public:
  explicit Story(bool told) : told_(told) {}
  void part(const std::string& title) const {
    if (told_) fmt::print("\n{}\n", title);
    if (told_) std::fflush(stdout);
  }
  void tell(const std::string& text) const {
    if (told_) fmt::print("  {}\n", text);
    if (told_) std::fflush(stdout);
  }
  void show(const std::string& text) const {
    if (told_) fmt::print("{}", text);
    if (told_) std::fflush(stdout);
  }

 private:
  bool told_;
};

Answer run(const Own& own, bool told) {
  const auto began = std::chrono::steady_clock::now();
  const Story story(told);
  const fs::path data = demo_folder(own.data);
  const fs::path out = own.out;
  std::error_code code;
  fs::create_directories(out, code);
  if (code)
    throw InputError(fmt::format("cannot make this folder: {}", code.message()), "",
                     {own.out, 0, 0});
  std::vector<std::string> files;
  const auto file = [&](const char* name) {
    files.push_back((out / name).string());
    return out / name;
  };

  story.part("1. The cell: what does the description say?");
  const Cell cell = load_cell(data / "glaze.cell.yaml");
  story.tell(inspect(cell).summary());
  const CellQuery query(cell, "teasel");
  const Arm& arm = query.arm();

  story.part("2. Reach: which postures put the gripper at a place on the upper kiln shelf?");
  const auto targets = load_targets(data / "kiln.targets.yaml", cell);
  const auto reached = reach(query, targets.front(), {.clearance = 5.0_mm});
  if (!reached) return no(reached.reason());
  story.tell(targets.front().name() + ": " + reached->summary(query));

  story.part("3. Route: from home into the kiln, proved free of collision all the way.");
  const auto route =
      find_route(query, cell.stance("teasel.home"), reached->postures(), {.clearance = 5.0_mm});
  if (!route) return no(route.reason());
  story.tell(route->summary(query));

  story.part("4. Pace: the route as a motion, within every limit.");
  const auto paced = pace(*route, query);
  if (!paced) return no(paced.reason());
  story.tell(paced->summary());
  write_file(file("route_motion.csv"), motion_csv(paced->motion, arm));

  story.part("5. Rehearse: the whole routine, replayed at 1000 ticks a second and measured.");
  const Routine routine = load_routine(data / "glaze.routine.yaml", cell);
  const auto planned = plan_routine(query, routine, {}, {.progress = progress_bar(), .stop = {}});
  if (!planned) return no(planned.reason());
  const Rehearsal rehearsal =
      rehearse(cell, *planned, {}, {.progress = progress_bar(), .stop = {}});
  story.tell(rehearsal.summary());
  story.show(rehearsal.report(cell));
  write_file(file("steps.csv"), rehearsal_csv(rehearsal));
  write_file(file("motion.csv"), motion_csv(planned->whole(), arm));
  plot_motion(file("motion.png"), planned->whole(), arm, plot_of(*planned));
  write_gltf(file("routine.glb"), cell, arm, timed_postures(planned->whole()),
             [&](const Body& piece, double time) { return planned->place_of(piece, time); });

  story.part("6. Survey: every place on the kiln shelves.");
  const Survey places = survey(query, targets, {}, {.progress = progress_bar(), .stop = {}});
  story.tell(places.summary("home"));
  story.show(places.report());
  write_file(file("survey.csv"), survey_csv(places));

  story.part("7. Draw: the arm in the kiln, with the path of its tool through the routine.");
  double until = 0.0;  // where it lets go of the cup
  for (const PlannedStep& step : planned->steps) {
    if (std::holds_alternative<Release>(step.step.action)) break;
    until = step.ends();
  }
  const Cell there = planned->cell_at(cell, until);
  Scene scene(there, postures_with(there, arm, planned->whole().at(until).position));
  add_tool_path(scene, arm, planned->whole());
  write_png(file("cell.png"), render(scene, best_view(scene)));
  story.tell("drawn");

  const double seconds =
      std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
  std::string text = fmt::format("\n{}\n  {}\n  {:.1f} s in all\n", rehearsal.summary(),
                                 places.summary("home"), seconds);
  text += wrote(files);
  text += fmt::format("  now change a number in {} and run it again\n",
                      (data / "glaze.cell.yaml").string());
  return {rehearsal.passed() ? Exit::yes : Exit::no, text,
          json_object({{"rehearsal", json_of(cell, rehearsal)},
                       {"survey", json_of(places)},
                       {"files", json_of(files)},
                       {"seconds", json_of(seconds)}})};
}

}  // namespace

Verb add_demo(VerbParser parser) {
  auto own = std::make_shared<Own>();
  parser.text("--out", own->out, "the folder to write to");
  parser.text("--data", own->data, "the folder of the demo's files, when it is not where it was");
  parser.footer(
      "examples:\n"
      "  elbowroom demo\n"
      "  elbowroom demo --out /tmp/demo --json");
  return {parser, [own, parser] { return run(*own, !parser.given("--json")); }};
}

}  // namespace er::cli
