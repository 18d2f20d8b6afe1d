// Fitting a model to a recording: the zeros and lengths that leave least.
#pragma once

#include "elbowroom/kinematics/recorded.hpp"

namespace er {

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

}  // namespace er
