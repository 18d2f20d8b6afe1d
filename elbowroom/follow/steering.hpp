// A tool steered by hand: the way is not known beforehand, only what is commanded now.
#pragma once

#include <optional>

#include "elbowroom/follow/step_log.hpp"
#include "elbowroom/follow/tracked_tool.hpp"

namespace er {

struct SteerOptions {
  FollowMode mode = FollowMode::limited;
  double rate = 1000.0;      ///< steps a second, 10 to 100000
  double clearance = 0.005;  ///< m, kept by `limited`; the others do not look
  double tool_acceleration =
      2.0;                ///< m/s^2 (a radian counts 0.3 m) that commands are taken up with
  double lag = 0.03;      ///< s, 0 to 1: commands are smoothed over about so long
  double gain = 20.0;     ///< 1/s: how quickly the tool is brought back on its course
  PathFreedom free = {};  ///< what is not commanded, in the tool's own axes
  Posture towards = {};   ///< what redundant joints are drawn to; empty: mid range
};

/// For a real-time loop: one step a period, no allocation after the first few, bounded time.
///
/// A step is only taken if the arm can be stopped after it: in a straight joint line that is proved
/// free for the whole of it and ends within every range; and, as far as a coarse look ahead sees,
/// with the tool kept on its course. If not, the arm takes as much of the step as allows that, and
/// at least the next bit of the stop that was proved before. So whatever is commanded, and even if
/// the commands end, limits and clearance are kept for certain. The tool's velocity goes in a
/// straight line, as fast as the limits allow, to the largest share of the command that the joints
/// can keep up.
class Steering {
 public:
  /// At rest in `start`. Throws InputError for options out of their ranges, a posture that does not
  /// fit the arm, and one that breaks a limit or, with `limited`, is nearer to something than the
  /// clearance. Refers to query and tool, which must outlive it.
  Steering(const CellQuery& query, const Tool& tool, const Posture& start,
           const SteerOptions& options = {});

  /// One step; the command (m/s and rad/s, world axes, turning about the tool's tip) holds for this
  /// step alone. A command that is not finite counts as none.
  void step(const Twist& command);

  [[nodiscard]] const Posture& posture() const { return posture_; }
  [[nodiscard]] const Posture& velocity() const { return velocity_; }  ///< of the last step
  [[nodiscard]] const Pose& tip() const { return tip_; }               ///< in the world
  /// Where the tool is meant to be: what it was steered through, exactly.
  [[nodiscard]] const Pose& meant() const { return meant_; }
  /// How far the tool is off that.
  [[nodiscard]] TrackedTool::Off off() const { return tool_.off(tip_, meant_); }
  /// The share of the command that the last step was; 1 for no command.
  [[nodiscard]] double share() const { return share_; }
  /// What holds the arm back from the command; nothing while it only has to gain speed.
  [[nodiscard]] const SlowBy& slow_by() const { return slow_by_; }

 private:
  void step_limited(const Twist& command);
  void step_unlimited(const Twist& command);
  Twist lasting_share_of(const Twist& command);
  Twist head_for(const Twist& goal);
  void ease_off(Twist& next);
  Twist brake();
  bool is_good(const Posture& step, const Twist& twist);
  bool can_stop_after(const Posture& from, const Posture& step, double after);
  bool is_free(const Posture& from, const Posture& to, double clearance);
  bool leads_away(const Posture& from, const Posture& to);
  /// A stop that is looked at ahead.
  struct Look {
    Posture posture;
    Posture velocity;
    Pose meant;
    double speed = 1.0;  ///< of the twist that it begins with
  };
  bool stays_on_course(const Posture& step, const Twist& twist);
  bool slow_down(Look& look, const Twist& twist, double h);
  void name_range(const Posture& velocity);
  double fastest(const Posture& posture, const Twist& twist);
  [[nodiscard]] double stop_time(const Posture& velocity) const;
  void advance(const Twist& command, const Twist& next);

  const CellQuery& query_;
  const Arm& arm_;
  TrackedTool tool_;
  SteerOptions options_;
  double period_;
  Limits look_limits_;  // that the look ahead stops within
  SweepMemory memory_;
  PartPoses parts_;
  double eagerness_ = 1.0;      // share of the tool's acceleration that speed is gained with
  std::optional<double> here_;  // m, the clearance at the posture, once that is asked for
  long checks_left_ = 0;        // of pairs of parts, in the proofs of this step
  StepQuestion question_;
  StepAnswer answer_;
  StepQuestion look_;  // of the look ahead
  StepAnswer look_answer_;
  JointBox box_;
  Posture posture_;
  Posture velocity_;
  Pose tip_;
  Pose meant_;
  Twist twist_;  // that the tool is meant to have
  double share_ = 1.0;
  SlowBy slow_by_;
};

}  // namespace er
