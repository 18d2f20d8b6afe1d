#include "elbowroom/base/random.hpp"

#include <array>
#include <bit>
#include <cmath>

namespace er {
namespace {

// Powers of 1 / ratio, the ratio being the root of x^(d+1) = x + 1 for d dimensions.
using Steps = std::array<double, kMaxJoints>;
const Steps& steps_of(Eigen::Index dimensions) {
  static const auto all = [] {
    std::array<Steps, kMaxJoints + 1> out{};
    for (std::size_t d = 1; d < out.size(); ++d) {
      double ratio = 2.0;  // by fixed-point iteration
      for (int i = 0; i < 64; ++i)
        ratio = std::pow(1.0 + ratio, 1.0 / (static_cast<double>(d) + 1.0));
      double power = 1.0;
      for (std::size_t i = 0; i < d; ++i) out[d][i] = power /= ratio;
    }
    return out;
  }();
  return all[static_cast<std::size_t>(dimensions)];
}

}  // namespace

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
    : low_(std::move(low)), high_(std::move(high)) {}

Posture SpreadSequence::at(int number) const {
  const Steps& steps = steps_of(low_.size());
  Posture q(low_.size());
  for (Eigen::Index i = 0; i < q.size(); ++i) {
    const double sum = 0.5 + (number + 1) * steps[static_cast<std::size_t>(i)];
    q[i] = low_[i] + (sum - std::floor(sum)) * (high_[i] - low_[i]);
  }
  return q;
}

}  // namespace er
