// A tool centre point from poses of the flange that touch one point.
#pragma once

#include <vector>

#include "elbowroom/base/pose.hpp"
#include "elbowroom/base/verdict.hpp"

namespace er {

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
