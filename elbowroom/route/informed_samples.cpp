#include "elbowroom/route/informed_samples.hpp"

#include <cmath>
#include <numbers>

namespace er {
namespace {

// Two normal deviates at a time would be kept for the next call; one is enough here (Box, Muller).
double normal(RandomStream& random) {
  const double radius = std::sqrt(-2.0 * std::log(1.0 - random.uniform()));
  return radius * std::cos(2.0 * std::numbers::pi * random.uniform());
}

// Evenly from the inside of the unit ball.
Posture in_unit_ball(Eigen::Index entries, RandomStream& random) {
  Posture out(entries);
  for (double& value : out) value = normal(random);
  return out.normalized() * std::pow(random.uniform(), 1.0 / static_cast<double>(entries));
}

}  // namespace

std::optional<Posture> informed_sample(const Posture& start, const Posture& goal, double longest,
                                       const Posture& lower, const Posture& upper,
                                       RandomStream& random) {
  const double apart = (goal - start).norm();
  if (longest <= apart) return std::nullopt;
  Posture sample = in_unit_ball(start.size(), random);
  const double across = 0.5 * std::sqrt(longest * longest - apart * apart);
  sample[0] *= 0.5 * longest;
  sample.tail(sample.size() - 1) *= across;
  if (apart > 0.0) {
    // A reflection that takes the first axis to the way from focus to focus.
    Posture mirror = (goal - start) / apart;
    mirror[0] -= 1.0;
    const double square = mirror.squaredNorm();
    if (square > 1e-24) sample -= 2.0 * mirror.dot(sample) / square * mirror;
  }
  sample += 0.5 * (start + goal);
  if ((sample.array() < lower.array()).any() || (sample.array() > upper.array()).any())
    return std::nullopt;
  return sample;
}

}  // namespace er
