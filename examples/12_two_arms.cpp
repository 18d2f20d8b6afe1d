// Two arms that share a kiln: each step is planned with the other arm standing, and begins as early
// as it is proved that the two do not meet. Who waits for what, and how near they come.
#include <fmt/format.h>
#include <algorithm>
#include <elbowroom/base/units.hpp>
#include <elbowroom/files/cell_file.hpp>
#include <elbowroom/files/routine_file.hpp>
#include <elbowroom/rehearse/rehearse.hpp>
#include <elbowroom/routine/arms_apart.hpp>

int main(int argc, char** argv) {
  const std::string folder = argc > 1 ? argv[1] : "demo";
  const er::Cell cell = er::load_cell(folder + "/kiln.cell.yaml");
  er::Routine routine = er::load_routine(folder + "/kiln.routine.yaml", cell);
  routine.steps.resize(16);  // both shelves are swept, and one cup is set between

  const auto planned = er::plan_routine(er::CellQuery(cell, routine.arm), routine);
  if (!planned) return fmt::print("{}\n", planned.reason()), 1;
  const er::Rehearsal rehearsal = er::rehearse(cell, *planned, {.rate = 100.0});
  fmt::print("{}\n", rehearsal.summary());
  for (const er::PlannedStep& step : planned->steps)
    if (!step.waits_for.empty())
      fmt::print("  step {}, {}: {} waits {} ({})\n", step.number, step.step.name,
                 routine.arm_of(step.step), er::text_time(step.waits), step.waits_for);

  const auto apart = er::arms_apart(cell, *planned, 50.0);
  const auto nearest =
      std::min_element(apart.begin(), apart.end(),
                       [](const auto& a, const auto& b) { return a.distance < b.distance; });
  fmt::print("nearest at {}: {} between {}\n", er::text_time(nearest->time),
             er::text_length(nearest->distance), nearest->pair);
  return rehearsal.passed() ? 0 : 1;
}
