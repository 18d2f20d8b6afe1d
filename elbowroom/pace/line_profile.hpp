// Progress along one straight joint line, from rest to rest.
#pragma once

#include <vector>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/model/arm.hpp"
#include "elbowroom/pace/paced_motion.hpp"

namespace er {

/// One piece: 3 s^2 - 2 s^3 of s = t / T has peaks 3/2 / T of velocity and 6 / T^2 of acceleration,
/// at both ends; T is the least that keeps those limits.
std::vector<CurvePiece> cubic_line(const Posture& from, const Posture& to, const Limits& limits,
                                   double speed);

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

/// Any of these: of all profiles but the time-optimal one.
std::vector<CurvePiece> profile_line(Profile profile, const Posture& from, const Posture& to,
                                     const Limits& limits, double speed);

}  // namespace er
