#include "elbowroom/collision/space_map.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace er {

// Fills the map: cubes of cells, each halved along every edge at once. Of a cube, only those
// obstacles count for its points that are no further from its middle than the nearest one and its
// diagonal: so a few are left when it comes down to cells.
class SpaceMap::Filling {
 public:
  Filling(SpaceMap& map, const LaneObstacles& obstacles)
      : map_(map), obstacles_(obstacles), cell_(2.0 * map.reach_ / kSide) {}

  // A cube of 2^size cells along each edge.
  void fill(const Eigen::Array3i& first, int size, std::span<const int> near) {
    const int step = 1 << (size - 1);
    float middles[3][8];
    for (int i = 0; i < 8; ++i)
      for (int k = 0; k < 3; ++k)
        middles[k][i] =
            static_cast<float>(cell_ * (corner(first, i, step)[k] + 0.5 * step) - map_.reach_);
    std::vector<float> away(8 * near.size());
    lane_distances(obstacles_, near, middles, away.data());
    const auto half_diagonal = static_cast<float>(0.5 * std::sqrt(3.0) * cell_ * step * kUpwards);
    for (int i = 0; i < 8; ++i) {
      float nearest = std::numeric_limits<float>::infinity();
      for (std::size_t n = 0; n < near.size(); ++n)
        nearest = std::min(nearest, away[8 * n + static_cast<std::size_t>(i)]);
      const float lower = std::min(nearest - half_diagonal, static_cast<float>(kFurthest));
      const Eigen::Array3i from = corner(first, i, step);
      if (size == 1 || lower >= static_cast<float>(kFurthest) || nearest + half_diagonal < 0.0F) {
        set(from, step, lower);
        continue;
      }
      std::vector<int> left;
      for (std::size_t n = 0; n < near.size(); ++n)
        if (away[8 * n + static_cast<std::size_t>(i)] <= nearest + 2.0F * half_diagonal)
          left.push_back(near[n]);
      fill(from, size - 1, left);
    }
  }

 private:
  // For the rounding of middles and of the diagonal itself.
  static constexpr double kUpwards = 1.0 + 1e-4;

  static Eigen::Array3i corner(const Eigen::Array3i& first, int child, int step) {
    return first + Eigen::Array3i(child & 1, (child >> 1) & 1, child >> 2) * step;
  }

  void set(const Eigen::Array3i& first, int side, float value) {
    for (int x = first[0]; x < first[0] + side; ++x)
      for (int y = first[1]; y < first[1] + side; ++y) {
        float* row = map_.cells_.data() + (x * kSide + y) * kSide + first[2];
        for (int z = 0; z < side; ++z) row[z] = std::min(row[z], value);
      }
  }

  SpaceMap& map_;
  const LaneObstacles& obstacles_;
  double cell_;
};

SpaceMap::SpaceMap(double reach, const LaneObstacles& obstacles, std::span<const int> list)
    : reach_(reach), cells_(std::size_t{1} << (3 * kSideBits), static_cast<float>(kFurthest)) {
  Filling(*this, obstacles).fill({0, 0, 0}, kSideBits, list);
}

SpaceMap::SpaceMap(const SpaceMap& others, const LaneObstacles& obstacles,
                   std::span<const int> list)
    : reach_(others.reach_), cells_(others.cells_) {
  if (!list.empty()) Filling(*this, obstacles).fill({0, 0, 0}, kSideBits, list);
}

float SpaceMap::at(const Vector3& from_centre) const {
  const Eigen::Array3i cell =
      ((from_centre.array() + reach_) * (kSide / (2.0 * reach_))).cast<int>().max(0).min(kSide - 1);
  return cells_[static_cast<std::size_t>((cell[0] * kSide + cell[1]) * kSide + cell[2])];
}

}  // namespace er
