// Pacing: time put on a joint path, within every velocity and acceleration limit.
#pragma once

#include <limits>
#include <optional>
#include <string>
#include <vector>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/pace/motion.hpp"
#include "elbowroom/route/rounding.hpp"
#include "elbowroom/route/route.hpp"
#include "elbowroom/route/tool_line.hpp"

namespace er {

/// How progress along each straight line starts and stops. All come to rest at every waypoint,
/// unless corners are rounded, and never leave the lines, so a route's proof of clearance holds for
/// the motion as it stands.
enum class Profile {
  quintic,    ///< smooth: acceleration is continuous and zero at both ends; keeps jerk limits too
  trapezoid,  ///< quick: full acceleration, cruise, full braking; acceleration jumps, so jerk
              ///< limits are not kept
  jerk_limited,  ///< the quickest that keeps jerk limits, too: up to seven pieces of constant jerk
  time_optimal,  ///< the quickest along the whole path within limits of velocity and acceleration,
                 ///< and of the tool where asked for; goes round rounded corners without a stop
};

inline constexpr Profile kAllProfiles[] = {Profile::quintic, Profile::trapezoid,
                                           Profile::jerk_limited, Profile::time_optimal};

std::string_view name_of(Profile profile);
/// Throws InputError with the nearest known name.
Profile profile_named(std::string_view name);

struct PaceOptions {
  Profile profile = Profile::quintic;
  /// Share of every velocity limit that may be used, above 0 to 1.
  double speed = 1.0;
  /// Rounds corners, as far as that is proved free; of Profile::time_optimal, in a cell.
  std::optional<CornerBounds> corners = {};
  /// Proved of rounded paths, m; of a route, what that keeps.
  double clearance = 0.005;
  /// Of the tip of `tool`, m/s and m/s^2; of Profile::time_optimal.
  double tool_speed = std::numeric_limits<double>::infinity();
  double tool_acceleration = std::numeric_limits<double>::infinity();
  std::string tool = {};  ///< empty: the first
};

/// A stretch between two stops that takes longer because of a zone that caps speeds.
struct SlowedStretch {
  int stretch = 0;        ///< from 1
  double factor = 1.0;    ///< how many times as long
  std::string link = {};  ///< the part of the arm that would be fastest in the zone
  std::string zone = {};
};

struct PacedMotion {
  Motion motion = {};
  Profile profile = Profile::quintic;
  MotionPeaks peaks;
  PeakUse torque = {};  ///< of the arm and what it holds, where masses and torque limits are stated
  int stops = 0;        ///< waypoints on the way at which the arm comes to rest
  std::vector<Corner> corners = {};  ///< where corners were to be rounded: all there are
  double clearance = 0.0;            ///< m; proved for a motion round corners as it stands
  std::vector<SlowedStretch> slowed = {};

  [[nodiscard]] int rounded() const;  ///< corners that are gone round without a stop
  [[nodiscard]] std::string summary() const;
  /// A table per joint: travel, largest velocity and acceleration, and their limits.
  [[nodiscard]] std::string report(const Arm& arm) const;

 private:
  [[nodiscard]] std::string corners_text(const Arm& arm) const;
};

/// The shortest motion of this profile through the waypoints in straight joint lines, all joints
/// starting and stopping together, at rest at each waypoint. A no names the joint and limit when
/// a waypoint is out of its range. Throws InputError for fewer than two different waypoints or a
/// limit that the profile needs and that is not stated. Given an arm alone, nothing is known of
/// zones. Rounded corners stray from the lines: what is proved of a route beside its clearance,
/// such as rules on the way, does not hold of them.
Verdict<PacedMotion> pace(const std::vector<Posture>& waypoints, const Arm& arm,
                          const PaceOptions& options = {});
/// The same in a cell: a stretch that passes through a zone with a speed cap is slowed as a whole
/// until every point of the arm keeps the cap while it is in the zone.
Verdict<PacedMotion> pace(const std::vector<Posture>& waypoints, const CellQuery& query,
                          const PaceOptions& options = {});
Verdict<PacedMotion> pace(const Route& route, const CellQuery& query,
                          const PaceOptions& options = {});

/// Times a straight tool move: its curve stretched until every limit is kept, at rest at both ends.
/// Jerk limits are kept inside it, but acceleration starts and ends with a small jump.
Verdict<PacedMotion> pace(const ToolLine& line, const CellQuery& query,
                          const PaceOptions& options = {});

}  // namespace er
