// A control loop with nothing of the library in it: its kinematics were written out as code for
// this arm alone, by `elbowroom convert demo/glaze.cell.yaml --out teasel_kinematics.hpp`. At every
// tick it tells how fast the tip moves, and slows the joints down before it is faster than it may
// be.
#include <cmath>
#include <cstdio>

#include "teasel_kinematics.hpp"

namespace arm = teasel_kinematics;

// The speed of the tip, m/s, while the joints move so.
static double tip_speed(const double* posture, const double* velocity) {
  arm::Frame tip;
  double jacobian[6 * arm::kJoints];
  arm::grip_jacobian(posture, tip, jacobian);
  double tip_velocity[3] = {0.0, 0.0, 0.0};
  for (int joint = 0; joint < arm::kJoints; ++joint)
    for (int i = 0; i < 3; ++i) tip_velocity[i] += jacobian[6 * joint + i] * velocity[joint];
  return std::hypot(tip_velocity[0], tip_velocity[1], tip_velocity[2]);
}

int main() {
  constexpr double kDegree = 0.017453292519943295;
  constexpr double kPeriod = 0.001;        // s
  constexpr double kMostSpeed = 0.25;      // m/s
  constexpr double kShareOfASecond = 0.5;  // of the way, as fast as the joints would like
  const double from[arm::kJoints] = {0.0, -20 * kDegree, 20 * kDegree, 0.0, 90 * kDegree, 0.0};
  const double to[arm::kJoints] = {-60 * kDegree, -25 * kDegree, 40 * kDegree,
                                   0.0,           -15 * kDegree, 0.0};

  double along = 0.0;  // 0 .. 1 from one posture to the other
  double measured = 0.0;
  arm::Frame before;
  arm::grip_frame(from, before);
  int ticks = 0;
  for (; along < 1.0; ++ticks) {
    double posture[arm::kJoints];
    double velocity[arm::kJoints];
    for (int joint = 0; joint < arm::kJoints; ++joint) {
      posture[joint] = from[joint] + along * (to[joint] - from[joint]);
      velocity[joint] = kShareOfASecond * (to[joint] - from[joint]);
    }
    const double speed = tip_speed(posture, velocity);
    along += kShareOfASecond * std::fmin(1.0, kMostSpeed / speed) * kPeriod;

    arm::Frame tip;
    arm::grip_frame(posture, tip);
    measured = std::fmax(
        measured, std::hypot(tip.matrix[12] - before.matrix[12], tip.matrix[13] - before.matrix[13],
                             tip.matrix[14] - before.matrix[14]) /
                      kPeriod);
    before = tip;
  }
  std::printf(
      "from home to before the kiln in %.3f s; the tip, measured tick by tick, %.1f mm/s at most "
      "of %.1f\n",
      kPeriod * ticks, 1000 * measured, 1000 * kMostSpeed);
  return measured <= 1.001 * kMostSpeed ? 0 : 1;
}
