// Progress along one straight joint line, from rest to rest.
#pragma once

#include <vector>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

/// One piece. The quintic 10 s^3 - 15 s^4 + 6 s^5 of s = t / T has peaks 15/8 / T of velocity,
/// 10 / sqrt(3) / T^2 of acceleration and 60 / T^3 of jerk; T is the least that keeps all limits.
std::vector<CurvePiece> quintic_line(const Posture& from, const Posture& to, const Limits& limits,
                                     double speed);

/// Two or three pieces: full acceleration, cruise where there is room for it, full braking. The
/// joint that needs longest sets the pace and the others keep to the line.
std::vector<CurvePiece> trapezoid_line(const Posture& from, const Posture& to, const Limits& limits,
                                       double speed);

/// Up to seven pieces of constant jerk, in the least time. All
/// jerk limits of joints that move must be stated (InputError).
std::vector<CurvePiece> jerk_limited_line(const Posture& from, const Posture& to,
                                          const Limits& limits, double speed);

}  // namespace er
