// A record of steps at a fixed rate, and what they used and kept.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/least_clearance.hpp"
#include "elbowroom/collision/zone_speed.hpp"
#include "elbowroom/follow/joint_box.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er {

/// Why a step is slower than asked for.
struct SlowBy {
  enum class Kind { nothing, limit, course, clearance, zone };
  Kind kind = Kind::nothing;
  LimitKind limit = LimitKind::none;  ///< with `limit`: which one, of `joint`
  int joint = -1;
  Nearest nearest = {};  ///< with `clearance`: what would come too near
  ZoneSpeed zone = {};   ///< with `zone`: what would be too fast there
};

/// The state at the end of a step; what was used is of the step before it.
struct FollowSample {
  double time = 0.0;       ///< s
  double path_time = 0.0;  ///< s, on the path's own clock
  Posture posture;
  Posture velocity;               ///< rad/s or m/s
  double scale = 1.0;             ///< of the speed asked for
  double velocity_use = 0.0;      ///< the largest share of a joint's limit
  double acceleration_use = 0.0;  ///< the same
  double off = 0.0;               ///< m from where the tool is meant to be at path_time
  double off_angle = 0.0;         ///< rad, the same
};

/// A stretch that was passed slower than asked for.
struct Slowdown {
  double from = 0.0;  ///< s
  double to = 0.0;
  double least_scale = 1.0;
  double lost = 0.0;  ///< s
  std::string why = {};
};

struct StepLog {
  std::vector<FollowSample> samples;  ///< the first is the start, at rest
  double worst_off = 0.0;             ///< m
  double worst_off_angle = 0.0;       ///< rad
  double worst_at = 0.0;              ///< s, of the worse of the two beside its tolerance
  PeakUse velocity;
  PeakUse acceleration;
  std::string range_breach;  ///< the first joint out of its range, or empty
  LeastClearance clearance;  ///< of straight joint lines through all samples
  ZoneSpeed zone;            ///< of the same; its share is 0 where no cap is exceeded
  std::vector<Slowdown> slowdowns;
  std::optional<Reason> no;  ///< why it is not as asked for, or not within the limits

  [[nodiscard]] double duration() const { return samples.back().time; }
  /// Lines of a report: how far off `course` ("the path"), shares of limits, least clearance, and
  /// the stretches, headed by `slowed`.
  [[nodiscard]] std::string report(const CellQuery& query, const std::string& course,
                                   const std::string& slowed) const;
};

/// What a motion has to keep to be a yes.
struct StepTolerances {
  double clearance = 0.0;        ///< m
  double deviation = 1e-4;       ///< m
  double turn_deviation = 1e-3;  ///< rad
};

/// Writes a log, step by step. Refers to query and log, which must outlive it.
class StepLogger {
 public:
  StepLogger(const CellQuery& query, double period, const StepTolerances& tolerances, StepLog& log);

  void begin(const Posture& start);
  [[nodiscard]] const FollowSample& last() const { return log_.samples.back(); }
  /// Adds the sample a period after the last, and fills in its time and what it used of the limits.
  void push(FollowSample sample);
  /// A step that begins now at this share of the speed asked for. Slow ones are gathered into
  /// stretches, each named for what held it where it was slowest.
  void note_slow(double scale, const SlowBy& by);
  /// What an open stretch is named for if nothing held it.
  void name_rest(std::string why) { rest_ = std::move(why); }
  /// Ends an open stretch.
  void close_stretch();
  [[nodiscard]] std::string why(const SlowBy& by) const;
  /// Measures the whole, whoever commanded it, and judges it where that has not been done.
  void finish();

 private:
  void open_stretch(double time, const SlowBy& by);
  void judge(double worst);

  const CellQuery& query_;
  const Arm& arm_;
  double period_;
  StepTolerances tolerances_;
  StepLog& log_;
  std::optional<Slowdown> open_;
  SlowBy slow_by_;          // of the stretch that is open, or was
  bool told_last_ = false;  // the stretch closed last stands at the end of the log
  std::string rest_ = "coming to rest";
};

/// A line of a report: what, and its figures in a column of their own.
std::string report_line(const std::string& what, const std::string& text);

/// Lengths and angles where micrometres count: "0.0023 mm", "under 0.0001 deg".
std::string fine_length(double metres);
std::string fine_angle(double radians);

}  // namespace er
