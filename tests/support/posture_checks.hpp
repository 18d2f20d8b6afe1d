// What every list of closed-form postures has to be.
#pragma once

#include <algorithm>
#include <catch2/catch.hpp>

#include "elbowroom/reach/closed_form.hpp"
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

/// Random, of the chain's joints; what there are no joints for is zero.
inline Angles values_of(RandomStream& random, const ScrewChain& chain) {
  Angles q = random_angles(random);
  std::fill(q.begin() + chain.size(), q.end(), 0.0);
  return q;
}

/// Of random postures.
struct Tally {
  int asked = 0;
  int missed = 0;
  int without_form = 0;
};

/// Random postures, each looked for from its own tip pose; what is missed is never said to be
/// complete. `make` gives a chain for each.
template <class Make>
Tally looked_for(int count, Make make) {
  RandomStream random(8);
  Tally out;
  for (int n = 0; n < count; ++n) {
    const ScrewChain chain = make(random);
    const Angles q = values_of(random, chain);
    const double least = regularity(chain, q);
    const auto form = ClosedForm::of(chain);
    if (!form) {
      CHECK(least < 1e-6);  // only where joints do less than they are, in every posture
      ++out.without_form;
      continue;
    }
    if (least < 1e-3) continue;
    const Pose tip = chain.at(q.data());
    ClosedSolutions all;
    form->solve(tip, all);
    INFO(n << " " << form->text());
    check_postures(chain, tip, all);
    ++out.asked;
    if (has(chain, all, q, 1e-6)) continue;
    ++out.missed;
    CHECK_FALSE(all.complete);
  }
  return out;
}

}  // namespace er::test
