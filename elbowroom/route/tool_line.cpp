#include "elbowroom/route/tool_line.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/spline.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/curve_sweep.hpp"
#include "elbowroom/reach/numeric.hpp"

namespace er {
namespace {

constexpr int kFewestPieces = 24;
constexpr int kMostPieces = 384;
constexpr double kKnotAccuracy = 1e-7;  // m and rad; the knots lie on the line as good as exactly
constexpr double kLongestKnotStep = 0.35;  // rad or m; a longer one is a jump to another branch

// The pose at a share of the line: position in a straight line, orientation at an even rate.
class LinePoses {
 public:
  LinePoses(const Pose& from, const Pose& to)
      : from_(from),
        shift_(to.position - from.position),
        turn_(rotation_vector(to.rotation * from.rotation.transpose())) {}

  [[nodiscard]] Pose at(double progress) const {
    const double angle = turn_.norm();
    const Matrix3 turned = angle < 1e-12 ? Matrix3(Matrix3::Identity())
                                         : rotation_about(turn_ / angle, progress * angle);
    return {turned * from_.rotation, from_.position + progress * shift_};
  }
  [[nodiscard]] double length() const { return shift_.norm(); }
  [[nodiscard]] double turn() const { return turn_.norm(); }

  // How far a pose lies beside the line (not along it), and its turn away from the even turn.
  [[nodiscard]] std::pair<double, double> deviation_of(const Pose& pose) const {
    const double length2 = shift_.squaredNorm();
    const Vector3 way = pose.position - from_.position;
    double progress = length2 > 0.0 ? std::clamp(way.dot(shift_) / length2, 0.0, 1.0) : 0.0;
    const double beside = (way - progress * shift_).norm();
    if (length2 == 0.0 && turn() > 0.0) {  // a turn in place: progress is seen in the turn
      const Vector3 so_far = rotation_vector(pose.rotation * from_.rotation.transpose());
      progress = std::clamp(so_far.dot(turn_) / turn_.squaredNorm(), 0.0, 1.0);
    }
    const double turned = rotation_vector(at(progress).rotation.transpose() * pose.rotation).norm();
    return {beside, turned};
  }

 private:
  Pose from_;
  Vector3 shift_;
  Vector3 turn_;
};

// From rest to rest with continuous acceleration: 10 t^3 - 15 t^4 + 6 t^5.
double eased(double t) { return t * t * t * (10.0 + t * (-15.0 + 6.0 * t)); }

Reason cut_short(const LinePoses& line, double progress, const std::string& why) {
  return {Cause::off_line,
          fmt::format("no: the straight line can be followed for {:.0f} % of the way ({:.1f} of "
                      "{:.1f} mm): there {}",
                      100.0 * progress, to_mm(progress * line.length()), to_mm(line.length()), why),
          {{"followed", progress, ""}, {"length", line.length(), "m"}}};
}

// Why no posture near the last one does it: a joint at its limit, or the branch ends.
std::string end_of_branch(const Arm& arm, const Posture& last) {
  const std::string limit = arm.limit_reached(last, 1e-6);
  return limit.empty()
             ? "this branch of postures ends (the arm is stretched out, or at a singularity)"
             : limit;
}

Verdict<std::vector<Posture>> knots_along(const Arm& arm, const LinePoses& line,
                                          const Target& target, const Posture& start, int pieces) {
  std::vector<Posture> knots{start};
  for (int i = 1; i <= pieces; ++i) {
    const double progress = eased(static_cast<double>(i) / pieces);
    const double before = eased(static_cast<double>(i - 1) / pieces);
    Target here;
    here.place(target.tool(), line.at(progress)).within(kKnotAccuracy, kKnotAccuracy);
    const NumericSolve solve = solve_from(arm, here, knots.back());
    if (!solve.met) return cut_short(line, before, end_of_branch(arm, solve.posture));
    const double step = (solve.posture - knots.back()).cwiseAbs().maxCoeff();
    if (step > kLongestKnotStep)
      return cut_short(line, before,
                       fmt::format("the joints would have to jump by {}", text_angle(step)));
    knots.push_back(solve.posture);
  }
  return knots;
}

void measure_deviation(const Arm& arm, const Tool& tool, const LinePoses& line, ToolLine& out) {
  JointState state;
  const std::size_t samples = 8 * out.curve.pieces().size();
  out.worst_deviation = 0.0;
  out.worst_turn_deviation = 0.0;
  for (std::size_t i = 0; i <= samples; ++i) {
    out.curve.at(static_cast<double>(i) / static_cast<double>(samples), state);
    const auto [beside, turned] = line.deviation_of(tool_pose(arm, tool, state.position));
    out.worst_deviation = std::max(out.worst_deviation, beside);
    out.worst_turn_deviation = std::max(out.worst_turn_deviation, turned);
  }
}

}  // namespace

Verdict<ToolLine> follow_line(const CellQuery& query, const Posture& start, const Target& target,
                              const ToolLineOptions& options) {
  const Arm& arm = query.arm();
  arm.check_posture(start, "the start of the line");
  const Tool& tool = arm.tool(target.tool());
  const LinePoses line(tool_pose(arm, tool, start), target.pose());
  if (line.length() < 1e-9 && line.turn() < 1e-9)
    throw InputError("the line has no length: the tool is already there", "leave the step out");

  ToolLine out;
  out.length = line.length();
  out.turn = line.turn();
  out.clearance = options.clearance;
  for (int pieces = kFewestPieces;; pieces *= 2) {
    const auto knots = knots_along(arm, line, target, start, pieces);
    if (!knots && pieces < kMostPieces && knots.reason().text.find("jump") != std::string::npos)
      continue;  // a coarse step near a singularity; a finer one may stay on the branch
    if (!knots) return knots.reason();
    out.curve = spline_through(*knots, 1.0 / pieces);
    measure_deviation(arm, tool, line, out);
    if (out.worst_deviation <= options.deviation &&
        out.worst_turn_deviation <= options.turn_deviation)
      break;
    if (pieces >= kMostPieces)
      return Reason{Cause::off_line,
                    fmt::format("no: the tip strays {} from the straight line, {} is allowed",
                                text_length(out.worst_deviation), text_length(options.deviation))};
  }
  SweepMemory memory(query);
  if (const CurveSweep sweep = sweep_curve(query, out.curve, options.clearance, memory);
      !sweep.free)
    return cut_short(
        line, eased(sweep.at),
        "something is in the way: " + query.describe(sweep.blocking, options.clearance));
  return out;
}

}  // namespace er
