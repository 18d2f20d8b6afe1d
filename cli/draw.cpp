#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/arms_plot.hpp"
#include "elbowroom/draw/dimension_drawing.hpp"
#include "elbowroom/draw/plot.hpp"
#include "elbowroom/files/routine_file.hpp"
#include "elbowroom/files/target_file.hpp"
#include "elbowroom/routine/routine.hpp"
#include "picture.hpp"
#include "verb.hpp"

namespace er::cli {
namespace {

struct Own {
  Arguments a;
  std::string at;
  std::string routine;
  int step = 0;
  bool plot = false;
  bool dimensions = false;
  bool covers = false;
  std::string azimuth;
  std::string elevation = "26 deg";
  int width = RenderOptions{}.width;
  int height = RenderOptions{}.height;
};

// The arm at zero with its dimensions, to be held beside a data sheet.
Answer draw_dimensioned(const Own& own, const Cell& cell) {
  const Arm& arm = for_option("--arm", [&]() { return std::cref(cell.arm(own.a.arm)); });
  for (const std::string& file : own.a.outs) draw_dimensions(file, arm, own.width, own.height);
  std::string text = fmt::format("dimensions of {} with every joint at zero\n", arm.name());
  Table table({"<from", "<to", "<along", "mm"});
  std::vector<std::string> json;
  for (const DrawingView view : {DrawingView::side, DrawingView::plan})
    for (const ArmDimension& one : dimensions_of(arm, view)) {
      if (view == DrawingView::plan && !one.upward) continue;  // the side view has them
      const char* along = !one.upward ? "x" : view == DrawingView::side ? "z" : "y";
      table.row({one.first, one.second, along, fmt::format("{:.2f}", to_mm(one.length()))});
      json.push_back(json_object({{"from", json_of(one.first)},
                                  {"to", json_of(one.second)},
                                  {"along", json_of(std::string(along))},
                                  {"length", json_of(one.length())}}));
    }
  return {Exit::yes, text + table.text() + wrote(own.a.outs),
          json_object({{"dimensions", fmt::format("[{}]", fmt::join(json, ","))},
                       {"files", json_of(own.a.outs)}})};
}

Answer run(const Own& own) {
  check_endings(own.a, own.plot || own.dimensions ? std::vector<std::string>{".png", ".svg"}
                                                  : std::vector<std::string>{".png"});
  if (own.a.outs.empty()) throw InputError("no file to draw to is given", "add --out picture.png");
  if (own.width < 16 || own.height < 16 || own.width > 8192 || own.height > 8192)
    throw InputError(fmt::format("--width and --height: expected 16 to 8192, found {} x {}",
                                 own.width, own.height));
  const double elevation =
      for_option("--elevation", [&] { return parse_quantity(own.elevation, dimension::angle); });
  if (std::abs(elevation) > 1.55)
    throw InputError("--elevation: expected an angle within -88 deg and 88 deg");
  const Cell cell = read_cell(own.a);
  if (own.dimensions) return draw_dimensioned(own, cell);
  std::optional<PlannedRoutine> planned;
  std::string arm_name = own.a.arm;
  if (!own.routine.empty()) {
    const Routine routine = load_routine(own.routine, cell);
    arm_name = routine.arm;
    auto plan = plan_routine(CellQuery(cell, arm_name), routine, {},
                             {.progress = progress_bar(), .stop = {}});
    if (!plan) return no(plan.reason());
    planned = std::move(plan).value();
  }
  const Cell moving = planned ? planned->routine.moving_cell(cell) : cell;
  const Arm& arm = for_option("--arm", [&]() {
    return std::cref(planned ? planned->routine.moving_arm(moving) : cell.arm(arm_name));
  });
  if (own.plot) {
    PlotOptions options = plot_of(*planned);
    options.width = own.width;
    options.height = own.height;
    for (const std::string& file : own.a.outs)
      if (planned->routine.others.empty())
        plot_motion(file, planned->whole(), arm, options);
      else
        plot_arms(file, cell, *planned, options);
    return {
        Exit::yes,
        fmt::format("plotted, {}\n{}", text_time(planned->duration()), wrote(own.a.outs)),
        json_object({{"duration", json_of(planned->duration())}, {"files", json_of(own.a.outs)}})};
  }
  Posture posture = arm.home_or_zero();
  Cell here = moving;  // with what is held then
  if (planned && own.at.empty()) {
    const int index =
        own.step == 0 ? -1 : for_option("--step", [&] { return planned->index_of(own.step); });
    const double time = index < 0 ? 0.0 : planned->steps[static_cast<std::size_t>(index)].ends();
    posture = planned->whole().at(time).position;
    here = planned->routine.moving_cell(planned->cell_at(cell, time));
  }
  if (!own.at.empty()) posture = read_posture_argument(arm, own.at, "--at");
  Scene scene(here, postures_with(here, arm, posture));
  if (own.covers) scene.add_covers(arm, posture, {0.93, 0.66, 0.35});
  if (planned) add_tool_path(scene, arm, planned->whole());
  View view = own.azimuth.empty() ? best_view(scene) : View{};
  if (!own.azimuth.empty())
    view.azimuth =
        for_option("--azimuth", [&] { return parse_quantity(own.azimuth, dimension::angle); });
  view.elevation = elevation;
  const Image image = render(scene, view, {.width = own.width, .height = own.height});
  for (const std::string& file : own.a.outs) write_png(file, image);
  return {Exit::yes,
          fmt::format("drawn, {} x {} pixels\n{}", own.width, own.height, wrote(own.a.outs)),
          json_object({{"width", json_of(own.width)},
                       {"height", json_of(own.height)},
                       {"files", json_of(own.a.outs)},
                       {"posture", json_of(posture)}})};
}

}  // namespace

Verb add_draw(VerbParser parser) {
  auto own = std::make_shared<Own>();
  add_cell(parser, own->a);
  parser.text("--at", own->at, "a stance, or joint values with commas between (home)");
  parser.text("--routine", own->routine, "a routine: draws the path of the tool over it");
  parser.number("--step", own->step,
                "show the arm at the end of this step of the routine (0: its start)");
  parser.flag("--plot", own->plot, "draw the motion of the routine as plots instead (.png, .svg)");
  parser.flag("--dimensions", own->dimensions,
              "draw the arm at zero with its dimensions instead, to compare with its data sheet "
              "(.png, .svg)");
  parser.flag("--covers", own->covers,
              "draw the balls that cover the arm, by which it is looked at first, over it");
  parser.text("--azimuth", own->azimuth,
              "where the eye is: turned left from the world's x (where the arm is seen best)");
  parser.text("--elevation", own->elevation, "and above the horizon");
  parser.number("--width", own->width, "pixels");
  parser.number("--height", own->height, "pixels");
  add_out(parser, own->a, ".png");
  const std::vector<std::string> drawings{"--plot", "--dimensions"};
  parser.not_beside("--plot", {"--dimensions"})
      .goes_with("--plot", {"--routine"})
      .not_beside("--routine", {"--dimensions"})
      .goes_with("--step", {"--routine"})
      .not_beside("--step", {"--at", "--plot"})
      .not_beside("--at", drawings)
      .not_beside("--covers", drawings)
      .not_beside("--azimuth", drawings)
      .not_beside("--elevation", drawings)
      .not_beside("--arm", {"--routine"});
  parser.footer(
      "examples:\n"
      "  elbowroom draw demo/glaze.cell.yaml --at home --out cell.png\n"
      "  elbowroom draw demo/glaze.cell.yaml --routine demo/glaze.routine.yaml --step 6 --out "
      "dip.png\n"
      "  elbowroom draw demo/glaze.cell.yaml --routine demo/dip.routine.yaml --plot --out dip.svg\n"
      "  elbowroom draw demo/glaze.cell.yaml --dimensions --out teasel.png");
  return {parser, [own] { return run(*own); }};
}

}  // namespace er::cli
