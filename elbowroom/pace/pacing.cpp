#include "elbowroom/pace/pacing.hpp"

#include <fmt/format.h>

#include <cmath>
#include <optional>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/collision/zone_speed.hpp"
#include "elbowroom/pace/jerk_limited_path.hpp"
#include "elbowroom/pace/line_profile.hpp"
#include "elbowroom/pace/motor_use.hpp"
#include "elbowroom/pace/time_optimal.hpp"

namespace er {
namespace {

bool keeps_jerk(const PaceOptions& options) {
  return options.profile == Profile::jerk_limited || options.keep_jerk;
}

// Straight on from beginning to end, evenly.
bool is_one_line(const JointCurve& path) {
  for (const CurvePiece& piece : path.pieces())
    for (std::size_t k = 0; k < piece.joints.size(); ++k) {
      const Quintic& c = piece.joints[k];
      if (c[2] != 0.0 || c[3] != 0.0 || c[4] != 0.0 || c[5] != 0.0) return false;
      if (std::abs(c[1] - path.pieces().front().joints[k][1]) > 1e-12) return false;
    }
  return true;
}

// Where nothing but the joints' own limits holds, a straight line has a closed form.
Motion closed_form(const JointCurve& path, const PathLimits& limits) {
  Limits own;
  own.velocity = limits.velocity;
  own.acceleration = limits.acceleration;
  own.jerk = limits.jerk;
  own.ways = limits.ways;
  return Motion(
      jerk_limited_line(path.at(0.0).position, path.at(path.duration()).position, own, 1.0));
}

// How many times as long a motion has to take, and does then, so that no more than all of a limit
// of speed is used anywhere: every speed falls alike. `share_of` is a bound, so once is not always
// enough for that to be seen.
template <class ShareOf>
double slow_until_kept(Motion& motion, const ShareOf& share_of) {
  double factor = 1.0;
  for (int i = 0; i < 20; ++i) {
    const double share = share_of(motion);
    if (share <= 1.0) break;
    factor *= share;
    motion = motion.stretched(share);
  }
  return factor;
}

Motion slowed_for_frames(const Arm& arm, const PaceOptions& options, Motion stretch, int number,
                         PacedMotion& out) {
  constexpr double kWorthSaying = 1.002;
  const FrameSpeed* worst = nullptr;  // as it was at first
  const double factor = slow_until_kept(stretch, [&](const Motion& motion) {
    double most = 1.0;
    const FrameSpeed* fastest = nullptr;
    for (const FrameSpeed& rule : options.frame_speeds)
      if (const double share = fastest_of(arm, rule, motion).share; share > most) {
        most = share;
        fastest = &rule;
      }
    if (worst == nullptr) worst = fastest;
    return most;
  });
  if (factor > kWorthSaying) out.slowed.push_back({number, factor, {}, {}, worst->text()});
  return stretch;
}

Motion slowed_for_zones(const CellQuery* query, Motion stretch, int number, PacedMotion& out) {
  if (query == nullptr) return stretch;
  std::optional<ZoneSpeed> worst;  // as it was at first
  const double factor = slow_until_kept(stretch, [&](const Motion& motion) {
    const ZoneSpeed fastest = fastest_in_zones(*query, motion);
    if (!worst) worst = fastest;
    return fastest.share;
  });
  if (factor > 1.0)
    out.slowed.push_back({number, factor, query->name(worst->body), query->name(worst->zone), {}});
  return stretch;
}

}  // namespace

void check_pacing(const Arm& arm, const PaceOptions& options) {
  if (!(options.speed > 0.0) || options.speed > 1.0)
    throw InputError(fmt::format("the speed must be above 0 and at most 100 %, found {:g} %",
                                 100.0 * options.speed));
  for (const double limit : {options.tool_speed, options.tool_acceleration})
    if (!(limit > 0.0)) throw InputError("limits of the tool are above zero");
  if (options.keep_jerk && options.profile != Profile::time_optimal)
    throw InputError(fmt::format("keeping jerk limits is asked of a time-optimal profile, found {}",
                                 name_of(options.profile)),
                     "take profile time-optimal, or jerk-limited without that");
  for (const FrameSpeed& rule : options.frame_speeds) check_frame_speed(arm, rule);
  if (options.steady && !std::isfinite(options.tool_speed))
    throw InputError("a steady tool needs a speed", "give the tool's speed");
  if (options.steady && (options.profile == Profile::cubic || options.profile == Profile::quintic))
    throw InputError(fmt::format("a {} profile has no constant speed", name_of(options.profile)),
                     "take profile trapezoid, jerk-limited or time-optimal");
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
          Needed{"jerk", limits.jerk, "jerk: 6000 deg/s^3", keeps_jerk(options)}})
      if (limit.needed && !std::isfinite(limit.values[k]))
        throw InputError(fmt::format("joint '{}' of arm '{}' has no {} limit, so no time can be "
                                     "put on a path",
                                     arm.moving_joint(k).name, arm.name(), limit.name),
                         fmt::format("state it: {}", limit.example));
}

PathLimits path_limits(const Arm& arm, const PaceOptions& options) {
  const Limits& limits = arm.limits();
  PathLimits out{.velocity = options.speed * limits.velocity,
                 .acceleration = limits.acceleration,
                 .tool_speed = options.tool_speed,
                 .tool_acceleration = options.tool_acceleration,
                 .frames = options.frame_speeds,
                 .ways = limits.ways};
  if (keeps_jerk(options) || options.profile == Profile::quintic) out.jerk = limits.jerk;
  if (std::isfinite(options.tool_speed) || std::isfinite(options.tool_acceleration)) {
    const Tool tool = arm.end_tool(options.tool);
    out.link = tool.link_index;
    out.tip = tool.tip.position;
  }
  return out;
}

Verdict<Motion> slowed_for_torque(const Arm& arm, Motion stretch, int number, PacedMotion& out) {
  if (!states_torques(arm)) return stretch;
  const auto factor = stretch_for_torque(stretch, arm, arm.limits().torque, ArmDynamics(arm));
  if (!factor) return factor.reason();
  if (*factor == 1.0) return stretch;
  out.slowed.push_back({number, *factor, {}, {}, {}});
  return stretch.stretched(*factor);
}

Motion slowed_for_speeds(const Arm& arm, const CellQuery* query, const PaceOptions& options,
                         Motion stretch, int number, PacedMotion& out) {
  return slowed_for_zones(query, slowed_for_frames(arm, options, std::move(stretch), number, out),
                          number, out);
}

Verdict<Motion> quickest(const JointCurve& path, const Arm& arm, const PathLimits& limits,
                         const PaceOptions& options, int intervals) {
  const auto within = [&](const PathLimits& own) -> Verdict<Motion> {
    if (options.keep_jerk) {
      if (is_one_line(path) && own.link < 0 && own.caps.empty() && own.frames.empty() &&
          !own.torques)
        return closed_form(path, own);
      const auto found = jerk_limited_path(path, arm, own, {.intervals = intervals});
      if (!found) return found.reason();
      return found->motion;
    }
    const auto found = time_optimal(path, arm, own, {.intervals = intervals});
    if (!found) return found.reason();
    return found->motion;
  };
  auto motion = within(limits);
  if (!motion || !states_torques(arm)) return motion;
  // Most motions keep torque limits without being told to, and are the quickest then.
  const Posture& most = arm.limits().torque;
  const auto stretch = stretch_for_torque(*motion, arm, most, ArmDynamics(arm));
  if (!stretch) return stretch.reason();
  if (*stretch == 1.0) return motion;
  PathLimits with_torques = limits;
  with_torques.torques = PathTorques{most, {}};
  return within(with_torques);
}

void look_at_peaks(const Arm& arm, const PaceOptions& options, PacedMotion& out) {
  out.frames.clear();
  for (const FrameSpeed& rule : options.frame_speeds)
    out.frames.push_back({rule, fastest_of(arm, rule, out.motion)});
  out.peaks = peaks_of(out.motion, arm.limits());
  out.torque = torque_use(out.motion, arm);
}

}  // namespace er
