#include <fmt/format.h>

#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "verb.hpp"

namespace er::cli {
namespace {

std::string text_of(const std::string& tool, const std::string& frame, const Pose& pose,
                    const std::string& breach) {
  const Vector3 p = pose.position * 1e3;
  const Vector3 rpy = rpy_of(pose.rotation) * to_deg(1.0);
  const Eigen::Vector4d q = quaternion_wxyz(pose.rotation);
  std::string out =
      fmt::format("{} is at [{:.3f}, {:.3f}, {:.3f}] mm in {}\n", tool, p.x(), p.y(), p.z(), frame);
  out += Table({"<", "", "", "", ""})
             .row({"position", fmt::format("x {:.3f} mm", p.x()), fmt::format("y {:.3f} mm", p.y()),
                   fmt::format("z {:.3f} mm", p.z()), ""})
             .row({"rpy", fmt::format("roll {:.4f} deg", rpy.x()),
                   fmt::format("pitch {:.4f} deg", rpy.y()), fmt::format("yaw {:.4f} deg", rpy.z()),
                   ""})
             .row({"quaternion", fmt::format("w {:.6f}", q[0]), fmt::format("x {:.6f}", q[1]),
                   fmt::format("y {:.6f}", q[2]), fmt::format("z {:.6f}", q[3])})
             .text()
             .substr(1);
  out += "  rpy: turned about the fixed x, y, z axes, in that order\n";
  if (!breach.empty()) out += "  beware, this posture is out of its limits: " + breach + "\n";
  return out;
}

}  // namespace

Verb add_where(VerbParser parser) {
  auto a = std::make_shared<Arguments>();
  auto at = std::make_shared<std::string>();
  add_cell(parser, *a);
  parser.needed_text("--at", *at, "a stance, or joint values with commas between");
  parser.text("--tool", a->tool, "which tool (the arm's first)");
  parser.text("--in", a->frame, "the frame to give the pose in (world)");
  parser.footer(
      "examples:\n"
      "  elbowroom where demo/glaze.cell.yaml --at home\n"
      "  elbowroom where demo/glaze.cell.yaml --at \"0 deg, -20 deg, 20 deg, 0 deg, 90 deg, 0 "
      "deg\" "
      "--in board");
  return {parser, [a, at] {
            const Cell cell = load_cell(a->cell);
            const Arm& arm = for_option("--arm", [&]() { return std::cref(cell.arm(a->arm)); });
            const Posture posture = read_posture_argument(arm, *at, "--at");
            const Tool tool_used = for_option("--tool", [&] { return arm.tool(a->tool); });
            const Pose frame = for_option("--in", [&] { return cell.frame(a->frame); });
            const Pose pose = frame.inverse() * tool_pose(arm, tool_used, posture);
            const std::string frame_name = a->frame.empty() ? "world" : a->frame;
            const std::string breach = arm.limit_breach(posture);
            return Answer{Exit::yes, text_of(tool_used.name, frame_name, pose, breach),
                          json_object({{"arm", json_of(arm.name())},
                                       {"tool", json_of(tool_used.name)},
                                       {"frame", json_of(frame_name)},
                                       {"posture", json_of(posture)},
                                       {"pose", json_of(pose)},
                                       {"limit_breach", json_of(breach)}})};
          }};
}

}  // namespace er::cli
