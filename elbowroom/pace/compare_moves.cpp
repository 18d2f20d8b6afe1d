#include "elbowroom/pace/compare_moves.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/curve_sweep.hpp"
#include "elbowroom/pace/tool_moments.hpp"

namespace er {
namespace {

constexpr int kSamples = 1000;

// Of a motion that does not end where it began.
MoveFigures figures_of(const Motion& motion, const Arm& arm, const Tool& tool) {
  MoveFigures out{.motion = motion,
                  .travel = Posture::Zero(arm.dof()),
                  .velocity_use = Posture::Zero(arm.dof()),
                  .acceleration_use = Posture::Zero(arm.dof())};
  const std::vector<ToolMoment> moments = tool_moments(motion, arm, tool, kSamples);
  out.way = moments.back().way;
  out.tool_speed = highest_speed(moments);
  const ToolPath chord(ToolLine(moments.front().tip, moments.back().tip));
  for (const ToolMoment& moment : moments) {
    // The nearest point of a straight line, from wherever it is looked for.
    const ToolPath::Deviation off = chord.deviation_of(moment.tip, 0.5 * chord.end());
    out.off_line = std::max(out.off_line, off.beside);
    out.turned_off = std::max(out.turned_off, off.turned);
  }
  Posture before = motion.at(0.0).position;
  for (int i = 1; i <= kSamples; ++i) {
    const Posture now = motion.at(motion.duration() * i / kSamples).position;
    out.travel += (now - before).cwiseAbs();
    before = now;
  }
  const auto widen = [](double& use, const WayLimits& limits, const Quintic& c, double duration) {
    const Extremes e = extremes_of(c, duration);
    use = std::max({use, limits.share_of(e.high), limits.share_of(e.low)});
  };
  for (const CurvePiece& piece : motion.pieces())
    for (int k = 0; k < arm.dof(); ++k) {
      const Quintic v = derivative_of(piece.joints[static_cast<std::size_t>(k)]);
      widen(out.velocity_use[k], arm.limits().velocity_of(k), v, piece.duration);
      widen(out.acceleration_use[k], arm.limits().acceleration_of(k), derivative_of(v),
            piece.duration);
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
  if ((ends[1] - ends[0]).cwiseAbs().maxCoeff() < 1e-6)
    throw InputError("the tool move ends where it began, and no joint move does that",
                     "leave the comparison out");
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
