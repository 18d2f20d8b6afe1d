// A brush drawn along an arc at a steady speed: the fastest at which it can be kept, beside what a
// joint move between the same postures would do.
#include <fmt/format.h>
#include <elbowroom/files/cell_file.hpp>
#include <elbowroom/pace/compare_moves.hpp>

int main(int argc, char** argv) {
  using namespace er::literals;
  const std::string folder = argc > 1 ? argv[1] : "demo";
  const er::CellQuery query(er::load_cell(folder + "/glaze.cell.yaml"), "teasel");
  const er::Arm& arm = query.arm();
  const er::Posture start = arm.stance("home");
  const er::Pose from = er::tool_pose(arm, arm.tool("grip"), start);
  const er::ToolArc arc(from, from.position + er::Vector3(45.0_mm, 90.0_mm, 10.0_mm),
                        {from.rotation, from.position + er::Vector3(0.0, 180.0_mm, 0.0)});

  const auto curve = er::follow_tool_path(query, start, "grip", arc);
  if (!curve) return fmt::print("{}\n", curve.reason().text), 1;
  er::PaceOptions options{.profile = er::Profile::time_optimal,
                          .keep_jerk = true,
                          .tool_speed = 1.0,  // m/s, which is too much
                          .steady = true};
  const auto hasty = er::pace(*curve, query, options);
  if (hasty) return fmt::print("1 m/s was to be too much\n"), 1;
  fmt::print("{}\n", hasty.reason().text);
  for (const er::Remedy& remedy : hasty.reason().remedies) fmt::print("  {}\n", remedy.text);

  options.tool_speed = 0.2;
  const auto paced = er::pace(*curve, query, options);
  if (!paced) return fmt::print("{}\n", paced.reason().text), 1;
  fmt::print("{}\n  {}\n", paced->summary(), paced->steady->text());
  const auto compared = er::compare_moves(*curve, paced->motion, query, options);
  if (!compared) return fmt::print("{}\n", compared.reason().text), 1;
  fmt::print("{}\n{}", compared->summary(), compared->table(arm));
  return paced->steady->kept && compared->tool.off_line > compared->joints.off_line ? 0 : 1;
}
