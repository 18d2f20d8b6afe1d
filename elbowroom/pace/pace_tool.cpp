// Time on a tool's path.
#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/told.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/curve_sweep.hpp"
#include "elbowroom/model/curve_ranges.hpp"
#include "elbowroom/pace/pace.hpp"
#include "elbowroom/pace/pacing.hpp"
#include "elbowroom/pace/path_progress.hpp"

namespace er {
namespace {

constexpr int kFewestPieces = 48;      // of a law
constexpr int kFewestIntervals = 300;  // of time-optimal pacing
constexpr int kMostPieces = 6144;

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
                      const PaceOptions& options, int pieces, PacedMotion& out) {
  if (options.profile == Profile::time_optimal)
    return quickest(curve.curve, arm, limits, options, pieces);
  const Motion motion = along(curve.curve, progress_of(curve, limits, options), pieces);
  // As quick as this law can be.
  return slowed_for_torque(arm, motion.stretched(stretch_to_keep(motion, arm, limits)), 1, out);
}

// The highest speed that is kept, below the one that was asked for; each that is tried is paced,
// the last as it is told.
std::optional<double> keepable_speed(const ToolCurve& curve, const CellQuery& query,
                                     PaceOptions options) {
  constexpr int kHalvings = 9;
  double low = 0.0;
  double high = options.tool_speed;
  const auto is_kept = [&](double speed) {
    options.tool_speed = speed;
    return static_cast<bool>(pace(curve, query, options));
  };
  for (int i = 0; i < kHalvings; ++i) {
    const double middle = 0.5 * (low + high);
    (is_kept(middle) ? low : high) = middle;
  }
  low = told_below(low, kToldLength);
  if (low == 0.0 || !is_kept(low)) return std::nullopt;
  return low;
}

Reason not_steady(const SteadySpeed& steady, const ToolCurve& curve, const CellQuery& query,
                  const PaceOptions& options) {
  Reason out{Cause::too_fast, "no: " + steady.text(), {{"asked", steady.asked, "m/s"}}};
  if (options.find_remedies) {
    PaceOptions own = options;
    own.find_remedies = false;
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
  if (!own.at.empty() || own.corners)
    throw InputError("a tool move has no waypoints or corners", "leave out what is of those");
  if (const auto left = leaves_ranges(curve.curve, arm))
    return Reason{Cause::beyond_limits,
                  fmt::format("no: on the {}: {}", curve.path.kind(), left->what)};
  const Tool tool = arm.end_tool(own.tool);
  const PathLimits limits = path_limits(arm, own);
  PacedMotion out;
  out.profile = own.profile;
  out.keeps_jerk = own.keep_jerk;
  out.clearance = curve.clearance;
  // The motion is near the curve: on finer pieces, as near as it has to be.
  int pieces = own.profile == Profile::time_optimal ? kFewestIntervals : kFewestPieces;
  for (;; pieces *= 2) {
    out.slowed.clear();
    const auto motion = timed(curve, arm, limits, own, pieces, out);
    if (!motion) return motion.reason();
    out.stray = largest_deviation(arm, tool, curve.path, *motion, 3);
    if (out.stray->beside > curve.deviation || out.stray->turned > curve.turn_deviation) {
      if (2 * pieces <= kMostPieces) continue;
      return Reason{Cause::off_line,
                    fmt::format("no: in motion the tip strays {} from the {}, {} is allowed",
                                text_length(out.stray->beside), curve.path.kind(),
                                text_length(curve.deviation))};
    }
    out.motion = slowed_for_speeds(arm, &query, own, *motion, 1, out);
    SweepMemory memory(query);
    const CurveSweep sweep = sweep_curve(query, out.motion, out.clearance, memory);
    if (sweep.free) break;
    if (2 * pieces > kMostPieces)
      return Reason{Cause::in_collision, "no: " + describe(query, sweep, out.clearance)};
  }
  look_at_peaks(arm, own, out);
  if (std::isfinite(own.tool_speed)) {
    out.steady = steady_speed(out.motion, arm, tool, own.tool_speed);
    if (own.steady && !out.steady->kept) return not_steady(*out.steady, curve, query, own);
  }
  return out;
}

}  // namespace er
