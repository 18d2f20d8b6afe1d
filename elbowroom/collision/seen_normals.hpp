// The directions in which pairs of things were nearest to each other when they were last looked at,
// while a line is swept: a moment later they are about the same.
#pragma once

#include <array>

#include "elbowroom/base/pose.hpp"

namespace er {

/// Of a few pairs at a time, of which the latest is kept. Allocates nothing.
class SeenNormals {
 public:
  void forget() { ++line_; }

  /// Of a pair, by the numbers of its two things; zero where there is none, to be filled in.
  [[nodiscard]] Vector3& of(int a, int b) {
    Seen& seen = seen_[static_cast<std::size_t>(31 * a + b) % seen_.size()];
    if (seen.line != line_ || seen.a != a || seen.b != b) seen = {line_, a, b, Vector3::Zero()};
    return seen.normal;
  }

 private:
  struct Seen {
    long line = -1;
    int a = -1;
    int b = -1;
    Vector3 normal = Vector3::Zero();
  };
  long line_ = 0;
  std::array<Seen, 64> seen_;
};

}  // namespace er
