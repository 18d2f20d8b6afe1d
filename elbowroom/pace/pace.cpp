#include "elbowroom/pace/pace.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/zone_speed.hpp"
#include "elbowroom/pace/line_profile.hpp"

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
  switch (options.profile) {
    case Profile::quintic:
      return quintic_line(from, to, limits, options.speed);
    case Profile::trapezoid:
      return trapezoid_line(from, to, limits, options.speed);
    case Profile::jerk_limited:
      break;
  }
  return jerk_limited_line(from, to, limits, options.speed);
}

// One stretch from rest to rest, slowed when it is too fast for a zone: at each point of the path
// every speed falls by the same factor.
Motion slowed_for_zones(const CellQuery* query, Motion stretch, int number, PacedMotion& out) {
  if (query == nullptr) return stretch;
  const ZoneSpeed fastest = fastest_in_zones(*query, stretch);
  if (fastest.share <= 1.0) return stretch;
  out.slowed.push_back(
      {number, fastest.share, query->name(fastest.body), query->name(fastest.zone)});
  return stretch.stretched(fastest.share);
}

Verdict<PacedMotion> pace_stretches(const std::vector<Posture>& waypoints, const Arm& arm,
                                    const CellQuery* query, const PaceOptions& options) {
  check_options(arm, options);
  PacedMotion out;
  out.profile = options.profile;
  int stretches = 0;
  std::vector<CurvePiece> pieces;
  for (std::size_t i = 0; i < waypoints.size(); ++i) {
    arm.check_posture(waypoints[i], fmt::format("waypoint {}", i + 1));
    if (const std::string breach = arm.limit_breach(waypoints[i]); !breach.empty())
      return Reason{Cause::beyond_limits, fmt::format("no: at waypoint {}: {}", i + 1, breach)};
    if (i == 0 || (waypoints[i] - waypoints[i - 1]).cwiseAbs().maxCoeff() < 1e-12) continue;
    const auto line = line_pieces(waypoints[i - 1], waypoints[i], arm.limits(), options);
    const Motion paced = slowed_for_zones(query, Motion(line), ++stretches, out);
    pieces.insert(pieces.end(), paced.pieces().begin(), paced.pieces().end());
  }
  if (stretches == 0)
    throw InputError(fmt::format("a motion needs two different waypoints, found {}",
                                 waypoints.empty() ? "none" : "only one"));
  out.stops = stretches - 1;
  out.motion = Motion(std::move(pieces));
  out.peaks = peaks_of(out.motion, arm.limits());
  return out;
}

}  // namespace

std::string_view name_of(Profile profile) {
  static constexpr std::array<std::string_view, 3> kNames{"quintic", "trapezoid", "jerk-limited"};
  return kNames.at(static_cast<std::size_t>(profile));
}

Profile profile_named(std::string_view name) {
  std::vector<std::string> known;
  for (const Profile profile : {Profile::quintic, Profile::trapezoid, Profile::jerk_limited}) {
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
  return pace(route.waypoints, query, options);
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
  return out;
}

std::string PacedMotion::summary() const {
  return fmt::format(
      "yes: {} in all, {}, {} stop{} on the way; at most {:.1f} % of a velocity limit "
      "and {:.1f} % of an acceleration limit{}",
      text_time(motion.duration()), name_of(profile), stops, stops == 1 ? "" : "s",
      100.0 * peaks.velocity.share, 100.0 * peaks.acceleration.share,
      slowed.empty() ? "" : fmt::format("; slowed for zone {}", slowed.front().zone));
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
  if (profile == Profile::trapezoid)
    out += "  a trapezoid's acceleration jumps at each corner: jerk is not limited there\n";
  return out;
}

}  // namespace er
