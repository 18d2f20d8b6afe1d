#include "elbowroom/pace/compare_moves.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/curve_sweep.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

constexpr int kSamples = 1000;

double largest(const std::vector<CurvePiece>& pieces, std::size_t k, int derivative) {
  double most = 0.0;
  for (const CurvePiece& piece : pieces)
    most = std::max(most, largest_over(piece, derivative)[static_cast<Eigen::Index>(k)]);
  return most;
}

MoveFigures figures_of(const Motion& motion, const Arm& arm, const Tool& tool) {
  MoveFigures out{.motion = motion,
                  .travel = Posture::Zero(arm.dof()),
                  .velocity_use = Posture::Zero(arm.dof()),
                  .acceleration_use = Posture::Zero(arm.dof())};
  const Pose from = tool_pose(arm, tool, motion.at(0.0).position);
  const Pose to = tool_pose(arm, tool, motion.at(motion.duration()).position);
  const ToolLine chord(from, to);
  const ToolPath path(chord);
  JointState state;
  Posture before;
  Vector3 tip_before;
  for (int i = 0; i <= kSamples; ++i) {
    motion.at(motion.duration() * i / kSamples, state);
    const Pose tip = tool_pose(arm, tool, state.position);
    if (i > 0) {
      out.way += (tip.position - tip_before).norm();
      out.travel += (state.position - before).cwiseAbs();
    }
    before = state.position;
    tip_before = tip.position;
    // The nearest point of a straight line, from wherever it is looked for.
    const ToolPath::Deviation off = path.deviation_of(tip, 0.5 * path.end());
    out.off_line = std::max(out.off_line, off.beside);
    out.turned_off = std::max(out.turned_off, off.turned);
    out.tool_speed = std::max(
        out.tool_speed,
        point_velocity(arm, tool.link_index, tool.tip.position, state.position, state.velocity)
            .norm());
  }
  for (int k = 0; k < arm.dof(); ++k) {
    const auto joint = static_cast<std::size_t>(k);
    out.velocity_use[k] = largest(motion.pieces(), joint, 1) / arm.limits().velocity[k];
    out.acceleration_use[k] = largest(motion.pieces(), joint, 2) / arm.limits().acceleration[k];
  }
  return out;
}

}  // namespace

Verdict<MoveComparison> compare_moves(const ToolCurve& curve, const Motion& tool_motion,
                                      const CellQuery& query, const PaceOptions& options) {
  const Arm& arm = query.arm();
  const Tool tool = arm.end_tool(curve.tool);
  const std::vector<Posture> ends{tool_motion.at(0.0).position,
                                  tool_motion.at(tool_motion.duration()).position};
  PaceOptions of_joints = options;
  of_joints.steady = false;
  if (of_joints.profile != Profile::time_optimal)
    of_joints.tool_speed = of_joints.tool_acceleration = std::numeric_limits<double>::infinity();
  of_joints.at.clear();
  of_joints.corners.reset();
  const auto joints = pace(ends, query, of_joints);
  if (!joints) return joints.reason();
  MoveComparison out{figures_of(joints->motion, arm, tool), figures_of(tool_motion, arm, tool),
                     std::string(curve.path.kind())};
  SweepMemory memory(query);
  const CurveSweep sweep = sweep_curve(query, joints->motion, curve.clearance, memory);
  if (!sweep.free) out.joints.in_the_way = describe(query, sweep, curve.clearance);
  return out;
}

std::string MoveComparison::summary() const {
  const double ratio = tool.motion.duration() / joints.motion.duration();
  return fmt::format("the {} takes {}, {:.2f} times as long as a joint move ({}){}", kind,
                     text_time(tool.motion.duration()), ratio, text_time(joints.motion.duration()),
                     joints.in_the_way.empty() ? "" : ", which is not free");
}

std::string MoveComparison::table(const Arm& arm) const {
  Table table({"<", "joint move", kind});
  const auto row = [&](const std::string& name, const auto& text) {
    table.row({name, text(joints), text(tool)});
  };
  row("duration", [](const MoveFigures& m) { return text_time(m.motion.duration()); });
  row("way of the tip", [](const MoveFigures& m) { return text_length(m.way); });
  row("off the straight line", [](const MoveFigures& m) { return text_length(m.off_line); });
  row("off an even turn", [](const MoveFigures& m) { return text_angle(m.turned_off); });
  row("tool speed, at most",
      [](const MoveFigures& m) { return fmt::format("{:.0f} mm/s", to_mm(m.tool_speed)); });
  for (int k = 0; k < arm.dof(); ++k) {
    const Joint& joint = arm.moving_joint(k);
    row(joint.name, [&](const MoveFigures& m) {
      return fmt::format("{}, {:.0f} % {:.0f} %", text_value(joint, m.travel[k]),
                         100.0 * m.velocity_use[k], 100.0 * m.acceleration_use[k]);
    });
  }
  std::string out = table.text();
  out += "  of each joint: travel, largest share of its limits of velocity and acceleration\n";
  if (!joints.in_the_way.empty())
    out += "  the joint move is not free: " + joints.in_the_way + "\n";
  return out;
}

}  // namespace er
