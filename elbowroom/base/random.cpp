#include "elbowroom/base/random.hpp"

#include <bit>
#include <cmath>

namespace er {

RandomStream::RandomStream(std::uint64_t seed) : state_{} {
  for (std::uint64_t& word : state_) {  // splitmix64
    seed += 0x9e3779b97f4a7c15ULL;
    std::uint64_t z = seed;
    z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
    z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
    word = z ^ (z >> 31);
  }
}

std::uint64_t RandomStream::next() {
  const std::uint64_t result = std::rotl(state_[0] + state_[3], 23) + state_[0];
  const std::uint64_t t = state_[1] << 17;
  state_[2] ^= state_[0];
  state_[3] ^= state_[1];
  state_[1] ^= state_[2];
  state_[0] ^= state_[3];
  state_[2] ^= t;
  state_[3] = std::rotl(state_[3], 45);
  return result;
}

double RandomStream::uniform() { return static_cast<double>(next() >> 11) * 0x1.0p-53; }

Posture RandomStream::between(const PostureRef& low, const PostureRef& high) {
  Posture q(low.size());
  for (Eigen::Index i = 0; i < q.size(); ++i) q[i] = uniform(low[i], high[i]);
  return q;
}

SpreadSequence::SpreadSequence(Posture low, Posture high)
    : low_(std::move(low)), high_(std::move(high)), step_(low_.size()), fraction_(low_.size()) {
  const double dimensions = static_cast<double>(low_.size());
  double ratio = 2.0;  // the root of x^(d+1) = x + 1, by fixed-point iteration
  for (int i = 0; i < 64; ++i) ratio = std::pow(1.0 + ratio, 1.0 / (dimensions + 1.0));
  double power = 1.0;
  for (Eigen::Index i = 0; i < low_.size(); ++i) {
    power /= ratio;
    step_[i] = power;
    fraction_[i] = 0.5;
  }
}

Posture SpreadSequence::next() {
  Posture q(low_.size());
  for (Eigen::Index i = 0; i < q.size(); ++i) {
    fraction_[i] += step_[i];
    fraction_[i] -= std::floor(fraction_[i]);
    q[i] = low_[i] + fraction_[i] * (high_[i] - low_[i]);
  }
  return q;
}

}  // namespace er
