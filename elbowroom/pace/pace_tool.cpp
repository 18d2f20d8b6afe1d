// Time on a tool's path.
#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/curve_sweep.hpp"
#include "elbowroom/pace/pace.hpp"
#include "elbowroom/pace/pacing.hpp"
#include "elbowroom/pace/path_progress.hpp"

namespace er {
namespace {

constexpr int kFewestPieces = 48;
constexpr int kMostPieces = 6144;
constexpr int kToolIntervals = 300;  // a tool's path is smooth

PathProgress progress_of(const ToolCurve& curve, const PathLimits& limits,
                         const PaceOptions& options) {
  const double length = curve.curve.duration();
  ProgressLimits most = progress_limits(curve.curve, limits);
  if (options.profile == Profile::cubic || options.profile == Profile::quintic)
    // One polynomial is stretched until it keeps all limits: here too short for any but the tool's.
    most = {std::min(1e3 * most.speed, options.tool_speed), options.tool_acceleration,
            std::numeric_limits<double>::infinity()};
  else if (options.profile == Profile::trapezoid)
    most.jerk = std::numeric_limits<double>::infinity();
  return progress_by(options.profile, length, most);
}

Verdict<Motion> timed(const ToolCurve& curve, const Arm& arm, const PathLimits& limits,
                      const PaceOptions& options, int pieces) {
  if (options.profile == Profile::time_optimal)
    return quickest(curve.curve, arm, limits, options, kToolIntervals);
  const Motion motion = along(curve.curve, progress_of(curve, limits, options), pieces);
  // As quick as this law can be.
  return motion.stretched(stretch_to_keep(motion, arm, limits));
}

// The highest speed that is kept, below the one that was asked for; each that is tried is paced.
std::optional<double> keepable_speed(const ToolCurve& curve, const CellQuery& query,
                                     PaceOptions options) {
  constexpr int kHalvings = 9;
  double low = 0.0;
  double high = options.tool_speed;
  for (int i = 0; i < kHalvings; ++i) {
    options.tool_speed = 0.5 * (low + high);
    (pace(curve, query, options) ? low : high) = options.tool_speed;
  }
  if (low == 0.0) return std::nullopt;
  return low;
}

Reason not_steady(const SteadySpeed& steady, const ToolCurve& curve, const CellQuery& query,
                  const PaceOptions& options) {
  Reason out{Cause::too_fast, "no: " + steady.text(), {{"asked", steady.asked, "m/s"}}};
  if (options.remedies) {
    PaceOptions own = options;
    own.remedies = false;
    if (const auto speed = keepable_speed(curve, query, own)) {
      out.figures.push_back({"kept", *speed, "m/s"});
      out.remedies.push_back({fmt::format("at {:.1f} mm/s it is kept", to_mm(*speed))});
    }
  }
  return out;
}

}  // namespace

Verdict<PacedMotion> pace(const ToolCurve& curve, const CellQuery& query,
                          const PaceOptions& options) {
  const Arm& arm = query.arm();
  PaceOptions own = options;
  own.tool = curve.tool;
  check_pacing(arm, own);
  if (const std::string breach = range_breach(curve.curve, arm); !breach.empty())
    return Reason{Cause::beyond_limits,
                  fmt::format("no: on the {}: {}", curve.path.kind(), breach)};
  const Tool tool = arm.end_tool(own.tool);
  const PathLimits limits = path_limits(arm, own);
  PacedMotion out;
  out.profile = own.profile;
  out.keeps_jerk = own.keep_jerk;
  out.clearance = curve.clearance;
  for (int pieces = kFewestPieces;; pieces *= 2) {
    const auto motion = timed(curve, arm, limits, own, pieces);
    if (!motion) return motion.reason();
    out.stray = largest_deviation(arm, tool, curve.path, *motion, 3);
    const bool near =
        out.stray->beside <= curve.deviation && out.stray->turned <= curve.turn_deviation;
    if (!near && pieces < kMostPieces && own.profile != Profile::time_optimal) continue;
    if (!near)
      return Reason{Cause::off_line,
                    fmt::format("no: in motion the tip strays {} from the {}, {} is allowed",
                                text_length(out.stray->beside), curve.path.kind(),
                                text_length(curve.deviation))};
    out.slowed.clear();
    auto paced = slowed(arm, &query, *motion, 1, out);
    if (!paced) return paced.reason();
    out.motion = std::move(*paced);
    SweepMemory memory(query);
    const CurveSweep sweep = sweep_curve(query, out.motion, out.clearance, memory);
    if (sweep.free) break;
    if (pieces >= kMostPieces || own.profile == Profile::time_optimal)
      return Reason{Cause::in_collision, "no: " + describe(query, sweep, out.clearance)};
  }
  look_at_peaks(arm, out);
  if (std::isfinite(own.tool_speed)) {
    out.steady = steady_speed(out.motion, arm, tool, own.tool_speed);
    if (own.steady && !out.steady->kept) return not_steady(*out.steady, curve, query, own);
  }
  return out;
}

}  // namespace er
