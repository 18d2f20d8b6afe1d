// Random streams and well-spread sequences that give the same numbers on every machine.
#pragma once

#include <array>
#include <cstdint>

#include "elbowroom/base/posture.hpp"

namespace er {

/// xoshiro256++ (Blackman and Vigna, 2019), seeded through splitmix64. The standard library's
/// distributions differ between implementations; these do not.
class RandomStream {
 public:
  explicit RandomStream(std::uint64_t seed);

  std::uint64_t next();
  /// Uniform in [0, 1).
  double uniform();
  double uniform(double low, double high) { return low + (high - low) * uniform(); }
  /// Uniform in 0 .. count-1.
  int index(int count) { return static_cast<int>(uniform() * count); }
  /// Uniform between two postures, joint by joint.
  Posture between(const PostureRef& low, const PostureRef& high);

 private:
  std::array<std::uint64_t, 4> state_;
};

/// Points that fill a box evenly however many are taken: the additive recurrence on the generalised
/// golden ratio (M. Roberts, "The unreasonable effectiveness of quasirandom sequences", 2018).
class SpreadSequence {
 public:
  SpreadSequence(Posture low, Posture high);
  Posture next() { return at(taken_++); }
  /// The point of that number, from 0, in no order.
  [[nodiscard]] Posture at(int number) const;

 private:
  Posture low_;
  Posture high_;
  int taken_ = 0;
};

}  // namespace er
