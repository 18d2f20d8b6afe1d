// The median time of a few rounds of the same work.
#pragma once

#include <algorithm>
#include <vector>

#include "elbowroom/base/stopwatch.hpp"

namespace er {

template <class Work>
double median_ms(Work work) {
  constexpr int kRounds = 5;
  std::vector<double> times;
  for (int i = 0; i < kRounds; ++i) {
    const Stopwatch watch;
    work();
    times.push_back(1e3 * watch.seconds());
  }
  std::sort(times.begin(), times.end());
  return times[times.size() / 2];
}

}  // namespace er
