#include <fmt/format.h>

#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/kinematics/chain_steps.hpp"
#include "elbowroom/reach/change.hpp"
#include "verb.hpp"

namespace er::cli {
namespace {

std::string text_of(const std::string& tool, const std::string& frame, const Pose& exact,
                    const RotationOrder& order, const std::string& breach) {
  const Pose pose = without_rounding(exact);
  const Vector3 p = pose.position * 1e3;
  const auto degrees = [](const Vector3& radians) -> Vector3 {
    return (radians * to_deg(1e4)).array().round() / 1e4 + 0.0;
  };
  const Vector3 rpy = degrees(rpy_of(pose.rotation));
  const Eigen::Vector4d q = quaternion_wxyz(pose.rotation).array() + 0.0;
  std::string out =
      fmt::format("{} is at [{:.3f}, {:.3f}, {:.3f}] mm in {}\n", tool, p.x(), p.y(), p.z(), frame);
  Table table({"<", "", "", "", ""});
  table.row({"position", fmt::format("x {:.3f} mm", p.x()), fmt::format("y {:.3f} mm", p.y()),
             fmt::format("z {:.3f} mm", p.z()), ""});
  table.row({"rpy", fmt::format("roll {:.4f} deg", rpy.x()),
             fmt::format("pitch {:.4f} deg", rpy.y()), fmt::format("yaw {:.4f} deg", rpy.z()), ""});
  if (!(order == RotationOrder{})) {
    const Vector3 angles = degrees(angles_of(order, pose.rotation));
    table.row({name_of(order), fmt::format("{:.4f} deg", angles.x()),
               fmt::format("{:.4f} deg", angles.y()), fmt::format("{:.4f} deg", angles.z()), ""});
  }
  table.row({"quaternion", fmt::format("w {:.6f}", q[0]), fmt::format("x {:.6f}", q[1]),
             fmt::format("y {:.6f}", q[2]), fmt::format("z {:.6f}", q[3])});
  out += table.text().substr(1);
  out += "  rpy: turned about the fixed x, y, z axes, in that order\n";
  if (!(order == RotationOrder{}))
    out += fmt::format("  {}: {}\n", name_of(order), describe(order));
  if (!breach.empty()) out += "  beware, this posture is out of its limits: " + breach + "\n";
  return out;
}

}  // namespace

namespace {

struct WhereArguments {
  Arguments a;
  std::string at;
  std::string rotation;
  std::string change;
  bool steps = false;
};

Tool tool_of(const Arm& arm, const std::string& name) {
  return for_option("--tool", [&] { return arm.tool(name); });
}

Answer answer_where(const WhereArguments& own) {
  const Cell cell = read_cell(own.a);
  const Arm& arm = for_option("--arm", [&]() { return std::cref(cell.arm(own.a.arm)); });
  const Posture posture = read_posture_argument(arm, own.at, "--at");
  const Tool tool = tool_of(arm, own.a.tool);
  const Pose frame = for_option("--in", [&] { return cell.frame(own.a.frame); });
  const Pose pose = frame.inverse() * tool_pose(arm, tool, posture);
  const std::string frame_name = own.a.frame.empty() ? "world" : own.a.frame;
  const std::string breach = arm.limit_breach(posture);
  const RotationOrder order =
      own.rotation.empty()
          ? arm.rotations()
          : for_option("--rotation", [&] { return rotation_order_named(own.rotation); });
  std::string text = text_of(tool.name, frame_name, pose, order, breach);
  std::vector<std::pair<std::string, std::string>> json{
      {"arm", json_of(arm.name())},   {"tool", json_of(tool.name)},
      {"frame", json_of(frame_name)}, {"posture", json_of(posture)},
      {"pose", json_of(pose)},        {"limit_breach", json_of(breach)}};
  if (own.steps) {
    const auto steps = chain_steps(arm, tool, posture);
    text += text_of(steps);
    json.emplace_back("steps", json_of(steps));
  }
  if (!own.change.empty()) {
    const Change change = for_option("--change", [&] { return read_change(arm, own.change); });
    const auto effect = effect_of(arm, tool, posture, change, frame);
    if (!effect) return no(effect.reason());
    text += fmt::format("\n  {}:\n{}", own.change, effect->report(arm));
    json.emplace_back("change", json_object({{"posture", json_of(effect->after)},
                                             {"pose", json_of(effect->tip_after)}}));
  }
  return {Exit::yes, text, json_object(json)};
}

}  // namespace

Verb add_where(VerbParser parser) {
  auto own = std::make_shared<WhereArguments>();
  add_cell(parser, own->a);
  parser.needed_text("--at", own->at, "a stance, or joint values with commas between");
  parser.text("--tool", own->a.tool, "which tool (the arm's first)");
  parser.text("--in", own->a.frame, "the frame to give the pose in (world)");
  parser.text("--rotation", own->rotation,
              "also give the rotation in this order, such as moving_zyz (the arm's own)");
  parser.flag("--steps", own->steps, "every transform from the mount to the tip");
  parser.text("--change", own->change,
              "what a change does to all the rest: \"elbow + 5 deg\" or \"x - 10 mm\"");
  parser.footer(
      "examples:\n"
      "  elbowroom where demo/glaze.cell.yaml --at home --steps\n"
      "  elbowroom where demo/glaze.cell.yaml --at home --in board --change \"z - 20 mm\"");
  return {parser, [own] { return answer_where(*own); }};
}

}  // namespace er::cli
