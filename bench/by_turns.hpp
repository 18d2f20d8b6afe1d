// Two ways of doing the same, by turns: on a machine whose speed changes from second to second,
// times can only be compared with those of the same moment.
#pragma once

#include <vector>

#include "elbowroom/base/quantile.hpp"
#include "elbowroom/base/stopwatch.hpp"

namespace er::bench {

/// Microseconds of one call, medians over all turns, and the median of what one took of the other
/// in the same turn.
struct ByTurns {
  double plain = 0.0;
  double ours = 0.0;
  double share = 0.0;
};

/// `calls` of each, given the call's number, in every turn.
template <class Plain, class Ours>
ByTurns by_turns(int turns, int calls, const Plain& plain, const Ours& ours) {
  const auto microseconds = [&](const auto& work) {
    const Stopwatch watch;
    for (int i = 0; i < calls; ++i) work(i);
    return 1e6 * watch.seconds() / calls;
  };
  std::vector<double> plain_times, our_times, shares;
  for (int turn = 0; turn < turns; ++turn) {
    plain_times.push_back(microseconds(plain));
    our_times.push_back(microseconds(ours));
    shares.push_back(our_times.back() / plain_times.back());
  }
  return {quantile(plain_times, 0.5), quantile(our_times, 0.5), quantile(shares, 0.5)};
}

}  // namespace er::bench
