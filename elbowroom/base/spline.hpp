// Cubic splines through knots.
#pragma once

#include <vector>

#include "elbowroom/base/joint_curve.hpp"

namespace er {

/// One cubic per gap between knots, each `step` long in the parameter; velocity and acceleration
/// are continuous, and the velocity is zero at both ends (the clamped cubic spline; C. de Boor, "A
/// Practical Guide to Splines", 1978, chapter IV). Two knots or more (InputError).
JointCurve spline_through(const std::vector<Posture>& knots, double step);

/// The same through unevenly spaced knots; acceleration is zero at both ends (the natural spline).
/// `times` ascend, one for each knot (InputError).
JointCurve spline_through(const std::vector<Posture>& knots, const std::vector<double>& times);

/// How far a piece of a spline strays from the straight line between its ends, at most: per joint
/// (duration^2 / 8) times the largest |acceleration|.
Posture chord_deviation(const CurvePiece& piece);

}  // namespace er
