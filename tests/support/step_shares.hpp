// What a run of steps used of the joints' limits, by differences of its postures alone.
#pragma once

#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <vector>

#include "elbowroom/follow/step_log.hpp"

namespace er::test {

struct StepShares {
  double velocity = 0.0;      ///< largest share
  double acceleration = 0.0;  ///< the same
  double range = 0.0;         ///< rad or m out of a range
};

inline StepShares step_shares(const Arm& arm, const std::vector<FollowSample>& samples) {
  StepShares out;
  const Limits& l = arm.limits();
  for (std::size_t i = 0; i < samples.size(); ++i) {
    const FollowSample& s = samples[i];
    for (int k = 0; k < arm.dof(); ++k) {
      out.range = std::max({out.range, s.posture[k] - l.upper[k], l.lower[k] - s.posture[k]});
      if (i == 0) continue;
      const double period = s.time - samples[i - 1].time;
      const double v = (s.posture[k] - samples[i - 1].posture[k]) / period;
      out.velocity = std::max(out.velocity, std::abs(v) / l.velocity[k]);
      const double before =
          i == 1 ? 0.0 : (samples[i - 1].posture[k] - samples[i - 2].posture[k]) / period;
      out.acceleration =
          std::max(out.acceleration, std::abs(v - before) / period / l.acceleration[k]);
    }
  }
  return out;
}

inline void check_within_limits(const StepShares& shares) {
  CHECK(shares.velocity <= 1.0 + 1e-6);
  CHECK(shares.acceleration <= 1.0 + 1e-5);  // second differences of doubles at 1 kHz
  CHECK(shares.range <= 1e-9);
}

}  // namespace er::test
