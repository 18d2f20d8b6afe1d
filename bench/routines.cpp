// How long whole routines take to plan, and a traced path with a free turn. Medians of a few rounds
// on one thread; the plain reference of the trace follows one turn after the other by numeric
// solves.
#include <fmt/format.h>

#include <vector>

#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/routine_file.hpp"
#include "elbowroom/reach/reach.hpp"
#include "elbowroom/route/tool_ladder.hpp"
#include "median.hpp"

using namespace er;

namespace {

void plan(const char* what, const Cell& cell, const Routine& routine) {
  std::string found;
  const double ms = median_ms([&] {
    const CellQuery query(cell, routine.arm);
    const auto planned = plan_routine(query, routine);
    found = planned ? fmt::format("{} steps, {:.3f} s, {} postures, {} moves planned",
                                  planned->steps.size(), planned->duration(), planned->ways,
                                  planned->looks)
                    : planned.reason().text;
  });
  fmt::print("{:34} {:8.1f} ms   {}\n", what, ms, found);
}

// A table of small pieces, eight by five, each of which goes onto another table.
Cell grid_cell(const Cell& cell) {
  CellDescription out = cell.description();
  out.pieces.clear();
  const auto table = [&](const char* name, double y) {
    out.fixtures.push_back({.name = name,
                            .at = Pose::at({0.42, y, 0.55}),
                            .parts = {{.shape = Box{{0.44, 0.36, 0.02}}}}});
  };
  std::erase_if(out.fixtures,
                [](const Body& one) { return one.name != "floor" && one.name != "pedestal"; });
  table("from", 0.30);
  table("onto", -0.30);
  for (int i = 0; i < 40; ++i) {
    Body piece{.name = fmt::format("peg_{}", i + 1),
               .at = Pose::at({0.25 + 0.05 * (i % 8), 0.16 + 0.07 * (i / 8), 0.56}),
               .parts = {{.shape = Cylinder{0.008, 0.06}, .at = Pose::at({0, 0, 0.03})}}};
    piece.grasps.push_back({.name = "top",
                            .tip = {rotation_from_rpy(3.14159265358979, 0, 0), {0, 0, 0.045}},
                            .turn = Band::free()});
    out.pieces.push_back(piece);
  }
  return Cell::build(out);
}

Routine grid_routine() {
  Routine out{.name = "forty pegs", .arm = "teasel", .clearance = 0.003};
  for (int i = 0; i < 40; ++i) {
    const std::string piece = fmt::format("peg_{}", i + 1);
    Step settings{.of = piece};
    for (Step& step : steps_of(Taking{.piece = piece, .from = 0.09, .raise = 0.08}, settings))
      out.steps.push_back(std::move(step));
    Putting putting{.piece = piece,
                    .at = Pose::at({0.25 + 0.05 * (i % 8), -0.44 + 0.07 * (i / 8), 0.56}),
                    .turn = Band::free(),
                    .lower = 0.08,
                    .back = 0.09};
    for (Step& step : steps_of(putting, settings)) out.steps.push_back(std::move(step));
  }
  return out;
}

void trace(const Cell& cell) {
  const CellQuery query(cell, "teasel");
  const Posture home = query.arm().stance("home");
  std::vector<Pose> poses;
  for (int i = 0; i < 1000; ++i) {
    const double t = i / 999.0;
    poses.push_back(
        {rotation_from_rpy(3.14159265358979, 0, 0),
         {0.42 + 0.12 * std::sin(9.0 * t), -0.25 + 0.5 * t, 0.75 + 0.03 * std::cos(20.0 * t)}});
  }
  std::string found;
  const double made = median_ms([&] { found = ToolTrace(poses).end() > 0.0 ? "" : "none"; });
  const ToolPath path = ToolTrace(poses);
  const double all = median_ms([&] {
    ToolLadder ladder(query, "grip", path, {.turn = Band::free()});
    const auto curve = ladder.curve_near(home);
    found = fmt::format("{} postures on {} rungs: {}", ladder.postures(), ladder.rungs(),
                        curve ? "yes" : curve.reason().text);
  });
  fmt::print("{:34} {:8.1f} ms   of 1000 poses, {:.3f} m\n", "a trace made", made, path.length());
  fmt::print("{:34} {:8.1f} ms   {}\n", "all branches, free turn", all, found);
  int followed = 0;
  const double plain = median_ms([&] {
    followed = 0;
    for (int turn = 0; turn < 36; ++turn) {
      Pose first = path.at(0.0);
      first.rotation = first.rotation * rotation_about(Vector3::UnitZ(), 0.17453292519943 * turn);
      Target target;
      target.place("grip", first).within(1e-9, 1e-9);
      const auto reached = reach(query, target, {.find_remedies = false});
      if (!reached) continue;
      Posture offset = Posture::Zero(3);
      offset[2] = 0.17453292519943 * turn;
      const ToolPath turned =
          ToolFreed(path, lines_through({offset, offset}).stretched(path.end()));
      for (const Posture& start : reached->postures())
        followed += follow_tool_path(query, start, "grip", turned) ? 1 : 0;
    }
  });
  fmt::print("{:34} {:8.1f} ms   {} curves, the turn the same all along\n",
             "each start and turn by itself", plain, followed);
}

}  // namespace

int main() {
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  for (const char* name : {"dip", "glaze", "ware"})
    plan(name, cell, load_routine(std::string(DEMO_DIR) + "/" + name + ".routine.yaml", cell));
  plan("a grid of 40 places", grid_cell(cell), grid_routine());
  const Cell kiln = load_cell(DEMO_DIR "/kiln.cell.yaml");
  Routine two_arms = load_routine(DEMO_DIR "/kiln.routine.yaml", kiln);
  plan("two arms at the kiln, at once", kiln, two_arms);
  two_arms.at_once = false;
  plan("the same, one after the other", kiln, two_arms);
  plan("two paths", cell, load_routine(DEMO_DIR "/shelf.routine.yaml", cell));
  trace(cell);
}
