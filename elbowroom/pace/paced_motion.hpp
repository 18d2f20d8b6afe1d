// What a motion is asked to be, and what comes of it.
#pragma once

#include <limits>
#include <optional>
#include <string>
#include <vector>

#include "elbowroom/collision/frame_speed.hpp"
#include "elbowroom/pace/motion.hpp"
#include "elbowroom/pace/steady_speed.hpp"
#include "elbowroom/route/rounding.hpp"
#include "elbowroom/route/tool_path.hpp"

namespace er {

/// How progress along each straight line starts and stops. All come to rest at every waypoint,
/// unless corners are rounded, and never leave the lines, so a route's proof of clearance holds for
/// the motion as it stands.
enum class Profile {
  cubic,      ///< the plainest polynomial: acceleration jumps at both ends
  quintic,    ///< smooth: acceleration is continuous and zero at both ends; keeps jerk limits too
  trapezoid,  ///< quick: full acceleration, cruise, full braking; acceleration jumps, so jerk
              ///< limits are not kept
  jerk_limited,  ///< the quickest that keeps jerk limits, too: up to seven pieces of constant jerk
  time_optimal,  ///< the quickest along the whole path within limits of velocity and acceleration,
                 ///< and of the tool where asked for; goes round rounded corners without a stop
};

inline constexpr Profile kAllProfiles[] = {Profile::cubic, Profile::quintic, Profile::trapezoid,
                                           Profile::jerk_limited, Profile::time_optimal};

std::string_view name_of(Profile profile);
/// "time-optimal with jerk limits"
std::string law_name(Profile profile, bool keep_jerk);
/// Throws InputError with the nearest known name.
Profile profile_named(std::string_view name);

/// What holds at a waypoint, or on the line that leads to it.
struct WaypointPace {
  double speed = 1.0;  ///< share of the velocity limits on the line to it, above 0 to 1
  bool stop = false;   ///< an exact stop, where corners are rounded
  double wait = 0.0;   ///< s at rest there
};

struct PaceOptions {
  Profile profile = Profile::quintic;
  /// Share of every velocity limit that may be used, above 0 to 1.
  double speed = 1.0;
  /// Profile::time_optimal keeps jerk limits, too: still the whole path at once, acceleration
  /// being continuous.
  bool keep_jerk = false;
  /// One for each waypoint, or none; speed and stop of the first mean nothing.
  std::vector<WaypointPace> at = {};
  /// Rounds corners, as far as that is proved free; of Profile::time_optimal, in a cell.
  std::optional<CornerBounds> corners = {};
  /// Proved of rounded paths, m; of a route, what that keeps.
  double clearance = 0.005;
  /// Of the tip of `tool`, m/s and m/s^2; of Profile::time_optimal, and of tool moves.
  double tool_speed = std::numeric_limits<double>::infinity();
  double tool_acceleration = std::numeric_limits<double>::infinity();
  std::string tool = {};  ///< empty: the first
  /// Of frames, under every profile; proved of the motion as it stands.
  std::vector<FrameSpeed> frame_speeds = {};
  /// Of tool moves: a no unless `tool_speed` is kept, to 1 %, from the first ramp to the last.
  bool steady = false;
  /// A no for that says what speed is kept, which takes ten times as long.
  bool find_remedies = true;
};

/// A stretch between two stops that takes longer because of a zone that caps speeds, a frame whose
/// speed is limited, or what the motors can give.
struct SlowedStretch {
  int stretch = 0;        ///< from 1
  double factor = 1.0;    ///< how many times as long
  std::string link = {};  ///< the part of the arm that would be fastest in the zone
  std::string zone = {};
  std::string rule = {};  ///< of a frame's speed; this and the zone empty: for torque limits

  /// "torque limits"
  [[nodiscard]] std::string what() const;
  /// "torque limits are kept"
  [[nodiscard]] std::string why() const;
};

struct PacedMotion {
  Motion motion = {};
  Profile profile = Profile::quintic;
  bool keeps_jerk = false;  ///< was asked to, of Profile::time_optimal
  MotionPeaks peaks;
  PeakUse torque = {};  ///< of the arm and what it holds, where masses and torque limits are stated
  int stops = 0;        ///< waypoints on the way at which the arm comes to rest
  std::vector<Corner> corners = {};  ///< where corners were to be rounded: all there are
  double clearance = 0.0;            ///< m; proved for a motion round corners as it stands
  std::vector<SlowedStretch> slowed = {};
  std::optional<SteadySpeed> steady = {};         ///< of a tool move that was given a speed
  std::optional<ToolPath::Deviation> stray = {};  ///< of a tool move from its path, as it stands
  /// What each of the asked speeds of frames comes to, a share of it.
  struct FrameUse {
    FrameSpeed rule;
    FastestFrame fastest;
  };
  std::vector<FrameUse> frames = {};

  [[nodiscard]] int rounded() const;  ///< corners that are gone round without a stop
  [[nodiscard]] std::string law() const { return law_name(profile, keeps_jerk); }
  [[nodiscard]] std::string summary() const;
  /// A table per joint: travel, largest velocity and acceleration, and their limits.
  [[nodiscard]] std::string report(const Arm& arm) const;

 private:
  [[nodiscard]] std::string corners_text(const Arm& arm) const;
};

}  // namespace er
