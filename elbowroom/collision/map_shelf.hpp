// Maps of space that were made for one question and serve the next one as well: while an arm
// carries pieces about, what does not move stays where it is.
#pragma once

#include <memory>
#include <mutex>
#include <span>
#include <vector>

#include "elbowroom/collision/space_map.hpp"

namespace er {

/// Safe to share between threads.
class MapShelf {
 public:
  /// The map of some obstacles: one that was made of just the same numbers, or a new one.
  std::shared_ptr<const SpaceMap> map_of(double reach, const LaneObstacles& obstacles,
                                         std::span<const int> list);

 private:
  struct Kept {
    std::vector<float> numbers;  // all that the map was made of
    std::shared_ptr<const SpaceMap> map;
  };
  std::mutex mutex_;
  std::vector<Kept> kept_;  // the one used last stands first
};

}  // namespace er
