// Whether a motion may be run: any motion, ours or read from a file, against limits, continuity,
// clearance, the caps of zones, how fast the tool goes and how near it comes to singular postures.
#pragma once

#include <limits>
#include <string>
#include <vector>

#include "elbowroom/collision/curve_sweep.hpp"
#include "elbowroom/collision/frame_speed.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er {

struct MotionAuditOptions {
  /// To be kept on the whole motion, m; proved.
  double clearance = 0.005;
  /// Of a table of samples (a piece from each row to the next) nothing is known between rows:
  /// velocities and accelerations are then the means from row to row, and velocities those of the
  /// rows, too.
  bool sampled = false;
  /// Jerk limits, and jumps of acceleration, count as well; otherwise they are only said.
  bool jerk = false;
  double tool_speed = std::numeric_limits<double>::infinity();  ///< m/s at most
  std::string tool = {};                                        ///< empty: the first
  std::vector<FrameSpeed> frame_speeds = {};                    ///< of frames, at most; proved
};

/// Something that is not kept, where it first is not and where most.
struct MotionBreach {
  std::string what = {};  ///< "velocity of waist"
  double first = 0.0;     ///< s
  double worst = 0.0;     ///< s
  std::string text = {};  ///< "212.0 deg/s at 0.412 s, limit 180.0 deg/s"
};

struct MotionAudit {
  double duration = 0.0;
  bool jerk = false;                        ///< whether it counts
  std::vector<MotionBreach> breaches = {};  ///< that forbid it to be run
  std::vector<MotionBreach> notes = {};     ///< jerk, where it does not count
  MotionPeaks peaks;
  PeakUse torque = {};         ///< at samples, where masses and torque limits are stated
  double clearance = 0.0;      ///< m; proved, when nothing is said of collisions
  double tool_speed = 0.0;     ///< m/s, the highest of samples
  double tool_speed_at = 0.0;  ///< s
  /// Smallest by largest singular value of the tool's Jacobian (positions), the least of samples:
  /// near zero the arm is nearly singular.
  double conditioning = 1.0;
  double conditioning_at = 0.0;  ///< s

  [[nodiscard]] bool passed() const { return breaches.empty(); }
  [[nodiscard]] std::string summary() const;
  /// The breaches and notes, a line each, and the figures.
  [[nodiscard]] std::string report(const Arm& arm) const;
};

/// Limits are compared exactly, by the extremes of each polynomial; clearance is proved
/// (sweep_curve), and so are the caps of zones. Speeds of the tool and singular postures are looked
/// for at 32 samples a piece. A motion begins and ends at rest. Throws InputError for another
/// number of joints, or an unknown tool.
MotionAudit audit_motion(const CellQuery& query, const Motion& motion,
                         const MotionAuditOptions& options = {});

}  // namespace er
