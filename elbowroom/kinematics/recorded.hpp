// Believing the model: recorded postures and poses, from the arm's own control software, held
// against it; and what is likely wrong.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "elbowroom/kinematics/forward.hpp"

namespace er {

/// One row of a recording. `angles` are as they were written; `order` says how they were read.
struct RecordedPose {
  Posture posture = {};
  Pose pose = {};      ///< of the tool's tip, in the recording's frame
  bool turned = true;  ///< false when the recording has no orientation
  Vector3 angles = Vector3::Zero();
  bool has_angles = false;  ///< false when the orientation came as a quaternion
};

struct Recording {
  std::vector<RecordedPose> rows = {};
  RotationOrder order = {};
};

/// What a radian of orientation counts as when errors are weighed together, m.
inline constexpr double kRecordedRadius = 0.3;

struct RecordedErrors {
  double worst_position = 0.0;  ///< m
  double mean_position = 0.0;   ///< m
  double worst_angle = 0.0;     ///< rad
  int worst_row = 0;            ///< from 0
  /// One number to rank by: metres, a radian counting as kRecordedRadius; root of the mean square.
  double size = 0.0;
};

/// The errors of any model of the tip's pose in the recording's frame. The recording has rows.
RecordedErrors errors_of(const Recording& recording,
                         const std::function<Pose(const Posture&)>& model);

/// "worst 8.6037 mm and 0.8001 deg, mean 7.7026 mm"
std::string text_of(const RecordedErrors& errors);

/// Throws InputError unless there are rows and each posture is one of the arm.
void check_recording(const Arm& arm, const Recording& recording);

/// A single mistake that would explain the errors, and what is left of them without it.
struct LikelyCause {
  std::string text;
  RecordedErrors left;
};

struct RecordedComparison {
  RecordedErrors errors;
  std::vector<LikelyCause> causes;  ///< each leaves at most a third of the errors; best first

  [[nodiscard]] std::string report(const Recording& recording) const;
};

/// Compares, and tries one by one: another order of the angles, a tool that is longer or turned, a
/// base that stands elsewhere, a joint that counts the other way, a joint whose zero is elsewhere.
/// `frame` is the recording's frame in the world. Throws InputError for an empty recording.
RecordedComparison compare_recorded(const Arm& arm, const Tool& tool, const Recording& recording,
                                    const Pose& frame = {});

}  // namespace er
