// How far away everything that stands still is, for every place an arm can get to: one look-up in
// place of a search, however much stands there.
#pragma once

#include <span>
#include <vector>

#include "elbowroom/collision/checked_pairs.hpp"

namespace er {

/// A cube of cells, `kSide` along each edge. Each has a lower bound on the distance from any of its
/// points to the nearest part (m; below zero inside one; no more than kFurthest is told apart).
class SpaceMap {
 public:
  static constexpr int kSideBits = 6;
  static constexpr int kSide = 1 << kSideBits;
  static constexpr double kFurthest = 0.35;

  /// About `centre`, out to `reach` along each axis (m). Distances count from so far outside a part
  /// as its margin says.
  SpaceMap(const Vector3& centre, double reach, std::span<const StandingPart* const> parts);

  [[nodiscard]] double reach() const { return reach_; }
  /// Of the cell that holds a point given from the centre.
  [[nodiscard]] float at(const Vector3& from_centre) const;
  /// Cells in order of x, y, z; the last one changes fastest.
  [[nodiscard]] const float* cells() const { return cells_.data(); }

 private:
  struct Cube;
  void fill(const Cube& cube, std::span<const int> near);
  void set(const Cube& cube, double value);

  Vector3 centre_;
  double reach_;
  std::span<const StandingPart* const> parts_;  // while it is built
  std::vector<float> cells_;
};

}  // namespace er
