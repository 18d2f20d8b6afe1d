#include "elbowroom/pace/pace.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/curve_sweep.hpp"
#include "elbowroom/collision/zone_speed.hpp"
#include "elbowroom/pace/line_profile.hpp"
#include "elbowroom/pace/motor_use.hpp"
#include "elbowroom/pace/time_optimal.hpp"

namespace er {
namespace {

void check_options(const Arm& arm, const PaceOptions& options) {
  if (!(options.speed > 0.0) || options.speed > 1.0)
    throw InputError(fmt::format("the speed must be above 0 and at most 100 %, found {:g} %",
                                 100.0 * options.speed));
  struct Needed {
    const char* name;
    const Posture& values;
    const char* example;
    bool needed;
  };
  const Limits& limits = arm.limits();
  for (int k = 0; k < arm.dof(); ++k)
    for (const Needed& limit :
         {Needed{"velocity", limits.velocity, "velocity: 120 deg/s", true},
          Needed{"acceleration", limits.acceleration, "acceleration: 600 deg/s^2", true},
          Needed{"jerk", limits.jerk, "jerk: 6000 deg/s^3",
                 options.profile == Profile::jerk_limited}})
      if (limit.needed && !std::isfinite(limit.values[k]))
        throw InputError(fmt::format("joint '{}' of arm '{}' has no {} limit, so no time can be "
                                     "put on a path",
                                     arm.moving_joint(k).name, arm.name(), limit.name),
                         fmt::format("state it: {}", limit.example));
}

// One straight line from rest to rest.
std::vector<CurvePiece> line_pieces(const Posture& from, const Posture& to, const Limits& limits,
                                    const PaceOptions& options) {
  if (options.profile == Profile::quintic) return quintic_line(from, to, limits, options.speed);
  if (options.profile == Profile::trapezoid) return trapezoid_line(from, to, limits, options.speed);
  return jerk_limited_line(from, to, limits, options.speed);
}

// One stretch from rest to rest, slowed when it is too fast for a zone: at each point of the path
// every speed falls by the same factor. What is too fast is known to a hundredth only, so once is
// not always enough for the slowed motion to be seen to keep the cap.
Motion slowed_for_zones(const CellQuery* query, Motion stretch, int number, PacedMotion& out) {
  if (query == nullptr) return stretch;
  double factor = 1.0;
  ZoneSpeed worst;
  for (int i = 0; i < 20; ++i) {
    const ZoneSpeed fastest = fastest_in_zones(*query, stretch);
    if (fastest.share <= 1.0) break;
    if (i == 0) worst = fastest;
    factor *= fastest.share;
    stretch = stretch.stretched(fastest.share);
  }
  if (factor > 1.0)
    out.slowed.push_back({number, factor, query->name(worst.body), query->name(worst.zone)});
  return stretch;
}

void check_waypoints(const std::vector<Posture>& waypoints, const Arm& arm) {
  for (std::size_t i = 0; i < waypoints.size(); ++i)
    arm.check_posture(waypoints[i], fmt::format("waypoint {}", i + 1));
}

// A no when a waypoint is out of its range.
std::optional<Reason> waypoint_out_of_range(const std::vector<Posture>& waypoints, const Arm& arm) {
  for (std::size_t i = 0; i < waypoints.size(); ++i)
    if (const std::string breach = arm.limit_breach(waypoints[i]); !breach.empty())
      return Reason{Cause::beyond_limits, fmt::format("no: at waypoint {}: {}", i + 1, breach)};
  return std::nullopt;
}

// Each line by itself, from rest to rest.
std::vector<Motion> line_by_line(const std::vector<Posture>& waypoints, const Arm& arm,
                                 const PaceOptions& options) {
  std::vector<Motion> stretches;
  for (std::size_t i = 1; i < waypoints.size(); ++i)
    if ((waypoints[i] - waypoints[i - 1]).cwiseAbs().maxCoeff() >= 1e-12)
      stretches.emplace_back(line_pieces(waypoints[i - 1], waypoints[i], arm.limits(), options));
  return stretches;
}

// As quick as can be from stop to stop.
std::vector<Motion> time_optimal_path(const RoundedPath& path, const Arm& arm,
                                      const PaceOptions& options) {
  PathLimits limits{.velocity = options.speed * arm.limits().velocity,
                    .acceleration = arm.limits().acceleration,
                    .tool_speed = options.tool_speed,
                    .tool_acceleration = options.tool_acceleration};
  if (std::isfinite(options.tool_speed) || std::isfinite(options.tool_acceleration)) {
    const Tool tool = arm.end_tool(options.tool);
    limits.link = tool.link_index;
    limits.tip = tool.tip.position;
  }
  std::vector<Motion> stretches;
  for (const JointCurve& curve : path.stretches)
    stretches.push_back(time_optimal(curve, arm, limits)->motion);
  return stretches;
}

RoundedPath path_through(const std::vector<Posture>& waypoints, const Arm& arm,
                         const CellQuery* query, const PaceOptions& options) {
  if (!options.corners) return straight_path(waypoints);
  if (query == nullptr)
    throw InputError("corners are only rounded in a cell, where the curves can be proved free",
                     "give the cell, or leave corners out");
  const Tool tool = arm.end_tool(options.tool);
  return round_corners(*query, waypoints,
                       {.clearance = options.clearance,
                        .bounds = *options.corners,
                        .link = tool.link_index,
                        .tip = tool.tip.position});
}

void check_path_options(const PaceOptions& options) {
  if (options.profile == Profile::time_optimal) return;
  if (options.corners)
    throw InputError(
        fmt::format("a {} profile comes to rest at every corner", name_of(options.profile)),
        "take profile time-optimal to round corners");
  if (std::isfinite(options.tool_speed) || std::isfinite(options.tool_acceleration))
    throw InputError(
        fmt::format("a {} profile knows of no limits of the tool", name_of(options.profile)),
        "take profile time-optimal");
}

// The motion as it stands, round corners: it is near the path that was proved, but not quite on it.
std::optional<Reason> not_proved(const CellQuery& query, const PacedMotion& paced) {
  SweepMemory memory(query);
  const CurveSweep sweep = sweep_curve(query, paced.motion, paced.clearance, memory);
  if (sweep.free) return std::nullopt;
  return Reason{Cause::in_collision,
                "no: round its corners: " + describe(query, sweep, paced.clearance)};
}

Verdict<PacedMotion> pace_stretches(const std::vector<Posture>& waypoints, const Arm& arm,
                                    const CellQuery* query, const PaceOptions& options) {
  check_options(arm, options);
  check_path_options(options);
  check_waypoints(waypoints, arm);
  if (auto reason = waypoint_out_of_range(waypoints, arm)) return *reason;
  PacedMotion out;
  out.profile = options.profile;
  std::vector<Motion> stretches;
  if (options.profile == Profile::time_optimal) {
    if (path_length(waypoints) > 1e-9) {
      const RoundedPath path = path_through(waypoints, arm, query, options);
      if (options.corners) out.corners = path.corners;
      stretches = time_optimal_path(path, arm, options);
    }
  } else {
    stretches = line_by_line(waypoints, arm, options);
  }
  if (stretches.empty())
    throw InputError(fmt::format("a motion needs two different waypoints, found {}",
                                 waypoints.empty() ? "none" : "only one"));
  std::vector<CurvePiece> pieces;
  for (std::size_t i = 0; i < stretches.size(); ++i) {
    const Motion paced =
        slowed_for_zones(query, std::move(stretches[i]), static_cast<int>(i) + 1, out);
    pieces.insert(pieces.end(), paced.pieces().begin(), paced.pieces().end());
  }
  out.stops = static_cast<int>(stretches.size()) - 1;
  out.motion = Motion(std::move(pieces));
  out.peaks = peaks_of(out.motion, arm.limits());
  out.torque = torque_use(out.motion, arm);
  if (out.rounded() > 0) {
    out.clearance = options.clearance;
    if (auto reason = not_proved(*query, out)) return *reason;
  }
  return out;
}

}  // namespace

std::string_view name_of(Profile profile) {
  static constexpr std::array<std::string_view, 4> kNames{"quintic", "trapezoid", "jerk-limited",
                                                          "time-optimal"};
  return kNames.at(static_cast<std::size_t>(profile));
}

Profile profile_named(std::string_view name) {
  std::vector<std::string> known;
  for (const Profile profile : kAllProfiles) {
    if (name == name_of(profile)) return profile;
    known.emplace_back(name_of(profile));
  }
  throw unknown_name("profile", name, known);
}

Verdict<PacedMotion> pace(const std::vector<Posture>& waypoints, const Arm& arm,
                          const PaceOptions& options) {
  return pace_stretches(waypoints, arm, nullptr, options);
}

Verdict<PacedMotion> pace(const std::vector<Posture>& waypoints, const CellQuery& query,
                          const PaceOptions& options) {
  return pace_stretches(waypoints, query.arm(), &query, options);
}

Verdict<PacedMotion> pace(const Route& route, const CellQuery& query, const PaceOptions& options) {
  PaceOptions own = options;
  own.clearance = route.clearance;
  return pace(route.waypoints, query, own);
}

Verdict<PacedMotion> pace(const ToolLine& line, const CellQuery& query,
                          const PaceOptions& options) {
  const Arm& arm = query.arm();
  check_options(arm, options);
  if (const std::string breach = range_breach(line.curve, arm); !breach.empty())
    return Reason{Cause::beyond_limits, "no: on the straight line: " + breach};
  // Stretching time by T divides velocity by T, acceleration by T^2 and jerk by T^3.
  const MotionPeaks unit = peaks_of(line.curve, arm.limits());
  const double duration =
      std::max({unit.velocity.share / options.speed, std::sqrt(unit.acceleration.share),
                std::cbrt(unit.jerk.share)});
  PacedMotion out;
  out.profile = Profile::quintic;
  out.motion = slowed_for_zones(&query, line.curve.stretched(duration), 1, out);
  out.peaks = peaks_of(out.motion, arm.limits());
  out.torque = torque_use(out.motion, arm);
  return out;
}

int PacedMotion::rounded() const {
  return static_cast<int>(std::count_if(corners.begin(), corners.end(),
                                        [](const Corner& corner) { return corner.cut > 0.0; }));
}

std::string PacedMotion::summary() const {
  const std::string round = corners.empty()
                                ? ""
                                : fmt::format(", {} of {} corner{} rounded", rounded(),
                                              corners.size(), corners.size() == 1 ? "" : "s");
  return fmt::format(
      "yes: {} in all, {}, {} stop{} on the way{}; at most {:.1f} % of a velocity limit "
      "and {:.1f} % of an acceleration limit{}",
      text_time(motion.duration()), name_of(profile), stops, stops == 1 ? "" : "s", round,
      100.0 * peaks.velocity.share, 100.0 * peaks.acceleration.share,
      slowed.empty() ? "" : fmt::format("; slowed for zone {}", slowed.front().zone));
}

std::string PacedMotion::corners_text(const Arm& arm) const {
  double most = 0.0;
  int joint = 0;
  for (const Corner& corner : corners)
    for (int k = 0; k < arm.dof(); ++k)
      if (corner.off[k] > most) most = corner.off[k], joint = k;
  const bool slides = arm.moving_joint(joint).kind == JointKind::prismatic;
  return fmt::format(
      "  round corners: at most {:.2f} {} ({}) from the straight lines; the motion as it stands is "
      "proved to keep {:.1f} mm\n",
      slides ? to_mm(most) : to_deg(most), slides ? "mm" : "deg", arm.moving_joint(joint).name,
      to_mm(clearance));
}

std::string PacedMotion::report(const Arm& arm) const {
  std::string out = limits_table(motion, arm);
  for (const SlowedStretch& one : slowed)
    out += fmt::format(
        "  stretch {} takes {:.2f} times as long so that {} keeps the speed cap of "
        "zone {}\n",
        one.stretch, one.factor, one.link, one.zone);
  if (peaks.jerk.share > 1.0 + 1e-6)
    out += fmt::format("  jerk limits are not kept: {:.0f} % of that of {}\n",
                       100.0 * peaks.jerk.share, arm.moving_joint(peaks.jerk.joint).name);
  if (const std::string text = torque_text(torque, arm); !text.empty()) out += "  " + text + "\n";
  if (profile == Profile::trapezoid)
    out += "  a trapezoid's acceleration jumps at each corner: jerk is not limited there\n";
  if (profile == Profile::time_optimal)
    out += "  acceleration jumps from one limit to another: jerk is not limited there\n";
  if (rounded() > 0) out += corners_text(arm);
  return out;
}

}  // namespace er
