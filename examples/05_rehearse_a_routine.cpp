// From two files to a verdict: load a cell and a routine, plan it, rehearse it. Then move a fixture
// into the way of the plan, and see the rehearsal find it.
#include <fmt/format.h>
#include <elbowroom/files/cell_file.hpp>
#include <elbowroom/files/target_file.hpp>
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
  fmt::print("{}\n{}", rehearsal.summary(), rehearsal.report(query.arm()));

  const er::Cell changed = cell.with_body_at("kiln", er::Pose::at({0.33, -0.52, 0.41}));
  fmt::print("\nthe kiln stands 80 mm further ahead:\n{}\n",
             er::rehearse(changed, *planned).summary());
  return rehearsal.passed() ? 0 : 1;
}
