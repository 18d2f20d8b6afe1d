#include "elbowroom/pace/pace.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/collision/curve_sweep.hpp"
#include "elbowroom/pace/jerk_limited_path.hpp"
#include "elbowroom/pace/line_profile.hpp"
#include "elbowroom/pace/pacing.hpp"
#include "elbowroom/pace/time_optimal.hpp"

namespace er {
namespace {

// Of the grid of a path with round corners; a spline of speeds takes fewer.
int intervals_of(const PaceOptions& options) {
  return options.keep_jerk ? JerkLimitedPathOptions{}.intervals : TimeOptimalOptions{}.intervals;
}

void check_waypoints(const std::vector<Posture>& waypoints, const Arm& arm,
                     const PaceOptions& options) {
  for (std::size_t i = 0; i < waypoints.size(); ++i)
    arm.check_posture(waypoints[i], fmt::format("waypoint {}", i + 1));
  if (!options.at.empty() && options.at.size() != waypoints.size())
    throw InputError(fmt::format("there are {} waypoints, and {} say how they are to be passed",
                                 waypoints.size(), options.at.size()));
  for (const WaypointPace& at : options.at) {
    if (!(at.speed > 0.0) || at.speed > 1.0)
      throw InputError(fmt::format("the speed must be above 0 and at most 100 %, found {:g} %",
                                   100.0 * at.speed));
    if (!(at.wait >= 0.0) || !std::isfinite(at.wait))
      throw InputError(fmt::format("a wait is zero or more, found {:g} s", at.wait));
  }
}

// A no when a waypoint is out of its range.
std::optional<Reason> waypoint_out_of_range(const std::vector<Posture>& waypoints, const Arm& arm) {
  for (std::size_t i = 0; i < waypoints.size(); ++i)
    if (const std::string breach = arm.limit_breach(waypoints[i]); !breach.empty())
      return Reason{Cause::beyond_limits, fmt::format("no: at waypoint {}: {}", i + 1, breach)};
  return std::nullopt;
}

void check_path_options(const PaceOptions& options) {
  if (options.steady)
    throw InputError("straight joint lines have no steady tool speed",
                     "take a tool move, or leave that out");
  if (options.profile == Profile::time_optimal) return;
  if (options.corners)
    throw InputError(
        fmt::format("a {} profile comes to rest at every corner", name_of(options.profile)),
        "take profile time-optimal to round corners");
  if (std::isfinite(options.tool_speed) || std::isfinite(options.tool_acceleration))
    throw InputError(fmt::format("a {} profile of joint lines knows of no limits of the tool",
                                 name_of(options.profile)),
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

class WaypointPacing {
 public:
  WaypointPacing(const std::vector<Posture>& waypoints, const Arm& arm, const CellQuery* query,
                 const PaceOptions& options)
      : waypoints_(waypoints), arm_(arm), query_(query), options_(options) {
    out_.profile = options.profile;
    out_.keeps_jerk = options.keep_jerk;
  }

  Verdict<PacedMotion> pace() {
    if (!waypoints_.empty()) wait(0);
    // Part by part, from one stop that was asked for to the next.
    std::size_t first = 0;
    for (std::size_t i = 1; i < waypoints_.size(); ++i) {
      const WaypointPace at = pace_at(i);
      if (i + 1 < waypoints_.size() && !at.stop && at.wait == 0.0) continue;
      if (auto reason = pace_part(first, i)) return *reason;
      wait(i);
      first = i;
    }
    if (stretches_ == 0)
      throw InputError(fmt::format("a motion needs two different waypoints, found {}",
                                   waypoints_.empty() ? "none" : "only one"));
    out_.stops = stretches_ - 1;
    out_.motion = Motion(std::move(pieces_));
    look_at_peaks(arm_, options_, out_);
    if (out_.rounded() > 0) {
      out_.clearance = options_.clearance;
      if (auto reason = not_proved(*query_, out_)) return *reason;
    }
    return std::move(out_);
  }

 private:
  [[nodiscard]] WaypointPace pace_at(std::size_t i) const {
    return options_.at.empty() ? WaypointPace{} : options_.at[i];
  }

  void wait(std::size_t i) {
    CurvePiece piece{pace_at(i).wait, {}};
    if (piece.duration == 0.0) return;
    for (const double value : waypoints_[i])
      piece.joints.push_back({value, 0.0, 0.0, 0.0, 0.0, 0.0});
    pieces_.push_back(std::move(piece));
  }

  void add(Motion stretch) {
    const Motion paced =
        slowed_for_speeds(arm_, query_, options_, std::move(stretch), ++stretches_, out_);
    pieces_.insert(pieces_.end(), paced.pieces().begin(), paced.pieces().end());
  }

  std::optional<Reason> pace_part(std::size_t first, std::size_t last) {
    if (options_.profile == Profile::time_optimal) return pace_path(first, last);
    for (std::size_t i = first + 1; i <= last; ++i) {
      const Posture& from = waypoints_[i - 1];
      const Posture& to = waypoints_[i];
      if ((to - from).cwiseAbs().maxCoeff() < 1e-12) continue;
      const auto line =
          slowed_for_torque(arm_,
                            Motion(profile_line(options_.profile, from, to, arm_.limits(),
                                                options_.speed * pace_at(i).speed)),
                            stretches_ + 1, out_);
      if (!line) return line.reason();
      add(*line);
    }
    return std::nullopt;
  }

  // As quick as can be from stop to stop.
  std::optional<Reason> pace_path(std::size_t first, std::size_t last) {
    const std::vector<Posture> part(waypoints_.begin() + static_cast<std::ptrdiff_t>(first),
                                    waypoints_.begin() + static_cast<std::ptrdiff_t>(last) + 1);
    if (path_length(part) <= 1e-9) return std::nullopt;
    RoundedPath path = path_through(part);
    for (Corner& corner : path.corners) corner.waypoint += first;
    if (options_.corners)
      out_.corners.insert(out_.corners.end(), path.corners.begin(), path.corners.end());
    for (std::size_t s = 0; s < path.stretches.size(); ++s) {
      PathLimits limits = path_limits(arm_, options_);
      limits.caps = caps_of(path.stretches[s], path.lines[s], first);
      const auto motion =
          quickest(path.stretches[s], arm_, limits, options_, intervals_of(options_));
      if (!motion) return motion.reason();
      add(*motion);
    }
    return std::nullopt;
  }

  RoundedPath path_through(const std::vector<Posture>& part) const {
    if (!options_.corners) return straight_path(part);
    if (query_ == nullptr)
      throw InputError("corners are only rounded in a cell, where the curves can be proved free",
                       "give the cell, or leave corners out");
    const Tool tool = arm_.end_tool(options_.tool);
    return round_corners(*query_, part,
                         {.clearance = options_.clearance,
                          .bounds = *options_.corners,
                          .link = tool.link_index,
                          .tip = tool.tip.position});
  }

  // The slowest of the lines that a piece is of.
  [[nodiscard]] std::vector<StretchCap> caps_of(const JointCurve& curve,
                                                const std::vector<RoundedPath::Lines>& lines,
                                                std::size_t first) const {
    std::vector<StretchCap> caps;
    if (options_.at.empty()) return caps;
    double start = 0.0;
    for (std::size_t i = 0; i < lines.size(); ++i) {
      const double end = start + curve.pieces()[i].duration;
      double share = 1.0;
      for (std::size_t line = lines[i].first; line <= lines[i].last; ++line)
        share = std::min(share, pace_at(first + line).speed);
      if (share < 1.0) caps.push_back({start, end, share});
      start = end;
    }
    return caps;
  }

  const std::vector<Posture>& waypoints_;
  const Arm& arm_;
  const CellQuery* query_;
  const PaceOptions& options_;
  PacedMotion out_;
  std::vector<CurvePiece> pieces_;
  int stretches_ = 0;
};

Verdict<PacedMotion> pace_waypoints(const std::vector<Posture>& waypoints, const Arm& arm,
                                    const CellQuery* query, const PaceOptions& options) {
  check_pacing(arm, options);
  check_path_options(options);
  check_waypoints(waypoints, arm, options);
  if (auto reason = waypoint_out_of_range(waypoints, arm)) return *reason;
  return WaypointPacing(waypoints, arm, query, options).pace();
}

}  // namespace

Verdict<PacedMotion> pace(const std::vector<Posture>& waypoints, const Arm& arm,
                          const PaceOptions& options) {
  return pace_waypoints(waypoints, arm, nullptr, options);
}

Verdict<PacedMotion> pace(const std::vector<Posture>& waypoints, const CellQuery& query,
                          const PaceOptions& options) {
  return pace_waypoints(waypoints, query.arm(), &query, options);
}

Verdict<PacedMotion> pace(const Route& route, const CellQuery& query, const PaceOptions& options) {
  PaceOptions own = options;
  own.clearance = route.clearance;
  return pace(route.waypoints, query, own);
}

}  // namespace er
