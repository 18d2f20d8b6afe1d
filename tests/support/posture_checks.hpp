// What every list of closed-form postures has to be.
#pragma once

#include <catch2/catch.hpp>

#include "support/chains.hpp"

namespace er::test {

/// Each is put back onto the pose, and no two are the same.
inline void check_postures(const ScrewChain& chain, const Pose& tip, const ClosedSolutions& all) {
  for (int i = 0; i < all.count; ++i) {
    const Angles& values = all.all[static_cast<std::size_t>(i)].values;
    const PoseError error = error_between(tip, chain.at(values.data()));
    CHECK(error.position < 1e-9);
    CHECK(error.angle < 1e-9);
    for (int k = 0; k < i; ++k)
      CHECK(distance_between(chain, values, all.all[static_cast<std::size_t>(k)].values) > 1e-8);
  }
}

}  // namespace er::test
