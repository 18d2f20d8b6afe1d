#include "elbowroom/collision/space_map.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include "elbowroom/collision/point_distance.hpp"

namespace er {
// Some cells of the map: a cube of 2^size of them along each edge.
struct SpaceMap::Cube {
  Eigen::Array3i first = {0, 0, 0};
  int size = kSideBits;
};

SpaceMap::SpaceMap(const Vector3& centre, double reach, std::span<const StandingPart* const> parts)
    : centre_(centre), reach_(reach), parts_(parts), cells_(std::size_t{1} << (3 * kSideBits)) {
  std::vector<int> all(parts.size());
  std::iota(all.begin(), all.end(), 0);
  fill({}, all);
  parts_ = {};
}

// Of a cube, only those parts count for its points that are no further from its middle than the
// nearest one and its diagonal: so a few are left when it comes down to cells.
void SpaceMap::fill(const Cube& cube, std::span<const int> near) {
  const double cell = 2.0 * reach_ / kSide;
  const int side = 1 << cube.size;
  const Vector3 middle =
      centre_ + (cell * (cube.first.cast<double>() + 0.5 * side) - reach_).matrix();
  const double half_diagonal = 0.5 * std::sqrt(3.0) * cell * side;
  std::vector<double> away(near.size());
  double nearest = std::numeric_limits<double>::infinity();
  for (std::size_t i = 0; i < near.size(); ++i) {
    const StandingPart& part = *parts_[static_cast<std::size_t>(near[i])];
    away[i] =
        point_distance(part.shape, in_axes_of(part.pose.rotation, middle - part.pose.position)) -
        part.margin;
    nearest = std::min(nearest, away[i]);
  }
  const double lower = std::min(nearest - half_diagonal, kFurthest);
  if (cube.size == 0 || lower >= kFurthest || nearest + half_diagonal < 0.0)
    return set(cube, lower);
  std::vector<int> left;
  for (std::size_t i = 0; i < near.size(); ++i)
    if (away[i] <= nearest + 2.0 * half_diagonal) left.push_back(near[i]);
  const int step = side / 2;
  for (int i = 0; i < 8; ++i)
    fill({cube.first + Eigen::Array3i(i & 1, (i >> 1) & 1, i >> 2) * step, cube.size - 1}, left);
}

void SpaceMap::set(const Cube& cube, double value) {
  // Rounded down, whatever the rounding of the conversion.
  const float stored = std::nextafter(static_cast<float>(value), -1.0F);
  const int side = 1 << cube.size;
  for (int x = cube.first[0]; x < cube.first[0] + side; ++x)
    for (int y = cube.first[1]; y < cube.first[1] + side; ++y) {
      const auto row = static_cast<std::ptrdiff_t>((x * kSide + y) * kSide + cube.first[2]);
      std::fill_n(cells_.begin() + row, side, stored);
    }
}

float SpaceMap::at(const Vector3& from_centre) const {
  const Eigen::Array3i cell =
      ((from_centre.array() + reach_) * (kSide / (2.0 * reach_))).cast<int>().max(0).min(kSide - 1);
  return cells_[static_cast<std::size_t>((cell[0] * kSide + cell[1]) * kSide + cell[2])];
}

}  // namespace er
