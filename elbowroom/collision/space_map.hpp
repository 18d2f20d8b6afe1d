// How far away everything that stands still is, for every place an arm can get to: one look-up in
// place of a search, however much stands there.
#pragma once

#include <span>
#include <vector>

#include "elbowroom/collision/lane_obstacles.hpp"

namespace er {

/// A cube of cells, `kSide` along each edge. Each has a lower bound on the distance from any of its
/// points to the nearest part (m; below zero inside one; no more than kFurthest is told apart).
class SpaceMap {
 public:
  static constexpr int kSideBits = 6;
  static constexpr int kSide = 1 << kSideBits;
  static constexpr double kFurthest = 0.35;

  /// About the centre of the obstacles, out to `reach` along each axis (m), of those in `list`.
  /// Distances count from so far outside each as its margin says.
  SpaceMap(double reach, const LaneObstacles& obstacles, std::span<const int> list);
  /// Of those and all that another map is of, about the same centre and with the same reach.
  SpaceMap(const SpaceMap& others, const LaneObstacles& obstacles, std::span<const int> list);

  [[nodiscard]] double reach() const { return reach_; }
  /// Of the cell that holds a point given from the centre.
  [[nodiscard]] float at(const Vector3& from_centre) const;
  /// Cells in order of x, y, z; the last one changes fastest.
  [[nodiscard]] const float* cells() const { return cells_.data(); }

 private:
  class Filling;

  double reach_;
  std::vector<float> cells_;
};

}  // namespace er
