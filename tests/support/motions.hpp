// Motions and paths that tests are written against, and what they use of limits, by samples.
#pragma once

#include <algorithm>
#include <cmath>
#include <limits>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/spline.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er::test {

/// A quintic spline through random postures.
inline JointCurve smooth_path(RandomStream& random, int joints, int count) {
  std::vector<SplineKnot> knots;
  std::vector<double> gaps;
  for (int i = 0; i < count; ++i) {
    knots.push_back(
        {random.between(Posture::Constant(joints, -1.5), Posture::Constant(joints, 1.5))});
    if (i > 0)
      gaps.push_back((knots[static_cast<std::size_t>(i)].position -
                      knots[static_cast<std::size_t>(i) - 1].position)
                         .norm());
  }
  return spline_through(knots, gaps, SplineDegree::quintic, SplineEnds::natural);
}

/// The largest |derivative| of a joint, at so many moments of each piece and its end; independent
/// of the exact extremes that the library finds.
inline double sampled_peak(const Motion& motion, int joint, int derivative, int samples = 100) {
  double most = 0.0;
  for (const CurvePiece& piece : motion.pieces())
    for (int i = 0; i <= samples; ++i)
      most = std::max(most, std::abs(value_at(piece.joints[static_cast<std::size_t>(joint)],
                                              piece.duration * i / samples, derivative)));
  return most;
}

/// The largest share of a limit of any joint.
inline double sampled_share(const Motion& motion, const Posture& limits, int derivative) {
  double most = 0.0;
  for (int k = 0; k < motion.dof(); ++k)
    most = std::max(most, sampled_peak(motion, k, derivative) / limits[k]);
  return most;
}

}  // namespace er::test
