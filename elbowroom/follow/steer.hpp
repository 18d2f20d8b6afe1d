// A recording of hand commands, steered through from start to end.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "elbowroom/follow/following.hpp"
#include "elbowroom/follow/steering.hpp"

namespace er {

/// What a deflected stick stands for.
struct StickScale {
  double speed = 0.1;       ///< m/s at full deflection
  double turn_speed = 0.5;  ///< rad/s, the same
  double dead_zone = 0.05;  ///< deflections up to this count as none, and the rest from there on
};

/// The twist of deflections from -1 to 1: along x, y, z, and about them. Sideways and ahead at once
/// is no faster than either alone. Throws InputError for a scale that is not above zero, a dead
/// zone out of 0 to 0.9.
Twist twist_of_sticks(const std::array<double, 6>& deflections, const StickScale& scale);

/// Commands in a row, each of which holds until the next.
struct TwistRecord {
  std::vector<double> times;  ///< s, ascending from 0
  std::vector<Twist> twists;
  double duration = 0.0;  ///< s: when the last one ends
};

/// Throws InputError for no commands, ones that are not finite, and times that do not ascend.
void check_record(const TwistRecord& record);

/// What came of steering.
struct Steered : StepLog {
  FollowMode mode = FollowMode::limited;
  double asked_travel = 0.0;  ///< m that the tip would have gone
  double travel = 0.0;        ///< m that it went
  double asked_turn = 0.0;    ///< rad, the same of turning
  double turn = 0.0;
  struct Moment {
    double asked_speed = 0.0;  ///< m/s
    double speed = 0.0;
  };
  std::vector<Moment> moments;  ///< one a sample

  /// The first line is the answer.
  [[nodiscard]] std::string summary(const CellQuery& query) const;
  [[nodiscard]] std::string report(const CellQuery& query) const;
};

struct SteerRun {
  Matrix3 axes = Matrix3::Identity();  ///< of the commands, in the world
  bool in_tool_axes = false;           ///< rather than those
  double deviation = 1e-4;             ///< m off its course that the answer may still be yes with
  double turn_deviation = 1e-3;        ///< rad, the same
};

/// Steers through the record from `start`, and on without a command until the arm is at rest.
/// Throws InputError as Steering and check_record do.
Steered steer(const CellQuery& query, const Tool& tool, const TwistRecord& record,
              const Posture& start, const SteerOptions& options = {}, const SteerRun& run = {});

}  // namespace er
