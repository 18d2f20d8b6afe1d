#include "elbowroom/collision/map_shelf.hpp"

#include <algorithm>

namespace er {
namespace {

constexpr std::size_t kMostKept = 12;  // of a megabyte each

void add(std::vector<float>& numbers, const float* values, std::size_t count) {
  numbers.insert(numbers.end(), values, values + count);
}

std::vector<float> numbers_of(double reach, const LaneObstacles& obstacles,
                              std::span<const int> list) {
  // The reach in two halves, so that nothing of it is lost.
  const auto high = static_cast<float>(reach);
  std::vector<float> out{high, static_cast<float>(reach - static_cast<double>(high))};
  for (const int i : list) {
    const LaneObstacle& one = obstacles.items[static_cast<std::size_t>(i)];
    out.push_back(static_cast<float>(one.kind));
    add(out, one.rotation, 9);
    add(out, one.position, 3);
    add(out, one.half, 3);
    add(out, one.ball, 3);
    for (const float value :
         {one.radius, one.upper_radius, one.ball_radius, one.margin, one.rounding, one.exact_below})
      out.push_back(value);
    add(out, obstacles.planes.data() + 4 * one.first_plane,
        4 * static_cast<std::size_t>(one.end_plane - one.first_plane));
  }
  return out;
}

}  // namespace

std::shared_ptr<const SpaceMap> MapShelf::map_of(double reach, const LaneObstacles& obstacles,
                                                 std::span<const int> list) {
  std::vector<float> numbers = numbers_of(reach, obstacles, list);
  const std::scoped_lock lock(mutex_);
  const auto found = std::find_if(kept_.begin(), kept_.end(),
                                  [&](const Kept& one) { return one.numbers == numbers; });
  if (found != kept_.end()) {
    std::rotate(kept_.begin(), found, found + 1);
    return kept_.front().map;
  }
  if (kept_.size() == kMostKept) kept_.pop_back();
  kept_.insert(kept_.begin(),
               {std::move(numbers), std::make_shared<const SpaceMap>(reach, obstacles, list)});
  return kept_.front().map;
}

}  // namespace er
