#include "elbowroom/route/tool_curve.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/spline.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/curve_sweep.hpp"
#include "elbowroom/model/curve_ranges.hpp"
#include "elbowroom/reach/numeric.hpp"

namespace er {
namespace {

constexpr int kFewestPieces = 24;
constexpr int kMostPieces = 384;
constexpr int kMeasured = 4;            // of each piece
constexpr double kKnotAccuracy = 1e-9;  // m and rad; the knots lie on the path as good as exactly
constexpr double kLongestKnotStep = 0.35;  // rad or m; a longer one is a jump to another branch
constexpr double kTimingRoom = 2e-6;  // m, proved beside the clearance: motions along the curve
                                      // stray from it a little

// Postures at even steps of the parameter, each nearest to the one before, or to the curve `near`.
// `jumped` says that a coarse step was the reason of a no.
Verdict<std::vector<Posture>> knots_along(const Arm& arm, const std::string& tool,
                                          const ToolPath& path, const Posture& start, int pieces,
                                          const JointCurve* near, bool& jumped) {
  jumped = false;
  std::vector<Posture> knots{start};
  for (int i = 1; i <= pieces; ++i) {
    const double before = path.end() * (i - 1) / pieces;
    const double at = path.end() * i / pieces;
    Target here;
    here.place(tool, path.at(at)).within(kKnotAccuracy, kKnotAccuracy);
    const NumericSolve solve =
        solve_from(arm, here, near == nullptr ? knots.back() : near->at(at).position);
    if (!solve.met) return cut_short(path, before, end_of_branch(arm, solve.posture));
    const double step = (solve.posture - knots.back()).cwiseAbs().maxCoeff();
    if (step > kLongestKnotStep) {
      jumped = true;
      return cut_short(path, before,
                       fmt::format("the joints would have to jump by {}", text_angle(step)));
    }
    knots.push_back(solve.posture);
  }
  return knots;
}

// A posture and its derivatives at the first of seven evenly spaced ones: those of the polynomial
// through them.
SplineKnot end_knot(const std::vector<Posture>& knots, std::size_t first, int way, double step) {
  constexpr std::array<double, 7> kFirst{-147.0, 360.0, -450.0, 400.0, -225.0, 72.0, -10.0};
  constexpr std::array<double, 7> kSecond{812.0, -3132.0, 5265.0, -5080.0, 2970.0, -972.0, 137.0};
  Posture slope = Posture::Zero(knots[first].size());
  Posture curvature = slope;
  for (std::size_t i = 0; i < kFirst.size(); ++i) {
    const Posture& knot = knots[way > 0 ? first + i : first - i];
    slope += kFirst[i] / (60.0 * way * step) * knot;
    curvature += kSecond[i] / (180.0 * step * step) * knot;
  }
  return {knots[first], slope, curvature};
}

JointCurve curve_through(const std::vector<Posture>& postures, double step) {
  std::vector<SplineKnot> knots;
  for (const Posture& posture : postures) knots.push_back({posture});
  const std::size_t last = postures.size() - 1;
  knots.front() = end_knot(postures, 0, 1, step);
  knots.back() = end_knot(postures, last, -1, step);
  return spline_through(knots, std::vector<double>(last, step), SplineDegree::quintic,
                        SplineEnds::clamped);
}

}  // namespace

Reason cut_short(const ToolPath& path, double parameter, const std::string& why) {
  const double share = parameter / path.end();
  return {Cause::off_line,
          fmt::format("no: the {} can be followed for {:.0f} % of the way ({:.1f} of {:.1f} mm): "
                      "there {}",
                      path.kind(), 100.0 * share, to_mm(share * path.length()),
                      to_mm(path.length()), why),
          {{"followed", share, ""}, {"length", path.length(), "m"}}};
}

std::string end_of_branch(const Arm& arm, const Posture& last) {
  const std::string limit = arm.limit_reached(last, 1e-6);
  return limit.empty()
             ? "this branch of postures ends (the arm is stretched out, or at a singularity)"
             : limit;
}

ToolPath::Deviation largest_deviation(const Arm& arm, const Tool& tool, const ToolPath& path,
                                      const JointCurve& motion, int each) {
  ToolPath::Deviation worst;
  ToolPath::Deviation here;
  JointState state;
  for (const CurvePiece& piece : motion.pieces()) {
    for (int i = 0; i <= each; ++i) {
      state_in(piece, piece.duration * i / each, state);
      here = path.deviation_of(tool_pose(arm, tool, state.position), here.parameter);
      if (here.beside > worst.beside) {
        worst.beside = here.beside;
        worst.parameter = here.parameter;
      }
      worst.turned = std::max(worst.turned, here.turned);
    }
  }
  return worst;
}

Verdict<ToolCurve> curve_along(const Arm& arm, const Posture& start, const std::string& tool_name,
                               const ToolPath& path, const ToolCurveOptions& options,
                               const JointCurve* near) {
  arm.check_posture(start, "the start of the path");
  const Tool& tool = arm.tool(tool_name);
  const ToolPath::Deviation off = path.deviation_of(tool_pose(arm, tool, start), 0.0);
  if (off.beside > options.deviation || off.turned > options.turn_deviation ||
      off.parameter > options.deviation + options.turn_deviation)
    throw InputError(fmt::format("the tool does not begin on the {}, but {} and {} from it",
                                 path.kind(), text_length(off.beside), text_angle(off.turned)));
  ToolCurve out{.path = path,
                .tool = tool_name,
                .clearance = options.clearance,
                .deviation = options.deviation,
                .turn_deviation = options.turn_deviation};
  for (int pieces = kFewestPieces;; pieces *= 2) {
    bool jumped = false;
    const auto knots = knots_along(arm, tool_name, path, start, pieces, near, jumped);
    if (jumped && pieces < kMostPieces) continue;  // near a singularity a finer step may stay
    if (!knots) return knots.reason();
    out.curve = curve_through(*knots, path.end() / pieces);
    const ToolPath::Deviation worst = largest_deviation(arm, tool, path, out.curve, kMeasured);
    out.worst_deviation = worst.beside;
    out.worst_turn_deviation = worst.turned;
    // Half of it is left for what timing adds.
    if (worst.beside <= 0.5 * options.deviation && worst.turned <= 0.5 * options.turn_deviation) {
      const auto left = leaves_ranges(out.curve, arm);
      if (left) return cut_short(path, left->at, left->what);
      return out;
    }
    if (pieces >= kMostPieces)
      return Reason{Cause::off_line, fmt::format("no: the tip strays {} from the {}, {} is allowed",
                                                 text_length(out.worst_deviation), path.kind(),
                                                 text_length(options.deviation))};
  }
}

Verdict<std::vector<Posture>> knots_along(const Arm& arm, const Posture& start,
                                          const std::string& tool, const ToolPath& path) {
  for (int pieces = kFewestPieces;; pieces *= 2) {
    bool jumped = false;
    auto knots = knots_along(arm, tool, path, start, pieces, nullptr, jumped);
    if (jumped && pieces < kMostPieces) continue;
    return knots;
  }
}

Verdict<ToolCurve> proved_free(const CellQuery& query, ToolCurve curve) {
  SweepMemory memory(query);
  const CurveSweep sweep = sweep_curve(query, curve.curve, curve.clearance + kTimingRoom, memory);
  if (sweep.free) return curve;
  std::string what = query.describe(sweep.blocking, curve.clearance);
  if (sweep.blocking.distance > curve.clearance)
    what += fmt::format(", and {:.3f} mm more for what timing changes", to_mm(kTimingRoom));
  return cut_short(curve.path, sweep.at, "something is in the way: " + what);
}

Verdict<ToolCurve> follow_tool_path(const CellQuery& query, const Posture& start,
                                    const std::string& tool, const ToolPath& path,
                                    const ToolCurveOptions& options) {
  auto curve = curve_along(query.arm(), start, tool, path, options);
  if (!curve) return curve;
  return proved_free(query, std::move(curve).value());
}

Verdict<ToolCurve> follow_line(const CellQuery& query, const Posture& start, const Target& target,
                               const ToolCurveOptions& options) {
  const Arm& arm = query.arm();
  arm.check_posture(start, "the start of the line");
  const Tool& tool = arm.tool(target.tool());
  const ToolLine line(tool_pose(arm, tool, start), target.pose());
  return follow_tool_path(query, start, target.tool(), line, options);
}

}  // namespace er
