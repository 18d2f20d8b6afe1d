// Believing the model: recorded postures and poses, from the arm's own control software, held
// against it; what is likely wrong; the offsets that fit best.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/base/verdict.hpp"
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

struct RecordedErrors {
  double worst_position = 0.0;  ///< m
  double mean_position = 0.0;   ///< m
  double worst_angle = 0.0;     ///< rad
  int worst_row = 0;            ///< from 0
  /// One number to rank by: metres, a radian counting as 0.3 m; root of the mean square.
  double size = 0.0;
};

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

/// What a fit may change.
enum class FitFreedom { zeros, zeros_and_lengths };

struct FittedValue {
  std::string what;   ///< "zero of joint elbow", "x of joint elbow's place"
  double change = 0;  ///< rad or m
  bool is_angle = true;
};

struct ModelFit {
  std::vector<FittedValue> values;
  RecordedErrors before;
  RecordedErrors after;
  int iterations = 0;

  [[nodiscard]] std::string report() const;
};

/// The zero of each joint, and with lengths the place of each joint on its parent, that fit the
/// recording best by least squares (D. Marquardt, 1963). What the recording does not determine
/// stays as it is. Throws InputError when there are fewer rows than the fit needs.
ModelFit fit_recorded(const Arm& arm, const Tool& tool, const Recording& recording,
                      FitFreedom freedom, const Pose& frame = {});

struct TouchFit {
  Vector3 tip = Vector3::Zero();    ///< in the flange's frame, m
  Vector3 point = Vector3::Zero();  ///< the point that was touched, in the frame of the poses
  double worst = 0.0;               ///< m, how far the worst pose puts the tip from the point
  double mean = 0.0;
};

/// The tool centre point from four or more poses of the flange with the tip on one point: the least
/// squares of R_i tip + p_i = point. A no when the poses are turned too little against each other
/// to tell.
Verdict<TouchFit> fit_touching(const std::vector<Pose>& flange);

}  // namespace er
