// From two files to a verdict: load a cell and a routine, plan it, rehearse it. Then move a fixture
// into the way of the plan, and see the rehearsal find it.
#include <fmt/format.h>
#include <elbowroom/files/cell_file.hpp>
#include <elbowroom/files/routine_file.hpp>
#include <elbowroom/rehearse/rehearse.hpp>

int main(int argc, char** argv) {
  using namespace er::literals;
  const std::string folder = argc > 1 ? argv[1] : "demo";
  const er::Cell cell = er::load_cell(folder + "/glaze.cell.yaml");
  const er::Routine routine = er::load_routine(folder + "/dip.routine.yaml", cell);
  const er::CellQuery query(cell, routine.arm);

  const auto planned = er::plan_routine(query, routine);
  if (!planned) return fmt::print("{}\n", planned.reason()), 1;
  const er::Rehearsal rehearsal = er::rehearse(cell, *planned);
  fmt::print("{}\n{}", rehearsal.summary(), rehearsal.report(cell));

  const er::Pose higher = er::Pose::at({250.0_mm, -520.0_mm, 470.0_mm});
  const er::Cell changed = cell.with_body_at("kiln_upper_shelf", higher);
  fmt::print("\nthe upper shelf lies 60 mm higher:\n{}\n",
             er::rehearse(changed, *planned).summary());
  return rehearsal.passed() ? 0 : 1;
}
